import { z } from 'zod';

// Compiling what it checks would break the page's own rules about what may run.
z.config({ jitless: true });
