import { defineConfig } from 'vite';

/** What runs in Node beside the app: the ways in (the server and the command line), and the worker threads. Built after the app, into the same folder. */
export default defineConfig({
	build: {
		ssr: true,
		outDir: 'build',
		emptyOutDir: false,
		target: 'node20',
		rollupOptions: {
			input: {
				'entry/server': 'src/lib/server/entry/server.ts',
				'entry/open-choir': 'cli/open-choir.ts',
				'workers/engine.worker': 'src/lib/server/engine/engine.worker.ts',
				'workers/meter.worker': 'src/lib/server/engine/meter.worker.ts',
				'workers/mix.worker': 'src/lib/server/engine/mix.worker.ts',
				'workers/database.worker': 'src/lib/server/db/database.worker.ts'
			},
			output: { entryFileNames: '[name].js', chunkFileNames: 'node-chunks/[name]-[hash].js' }
		}
	}
});
