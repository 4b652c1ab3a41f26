// Starts a worker written in TypeScript where nothing has been built: in tests, in development, on the command line.
import { workerData as data } from 'node:worker_threads';
import { register } from 'tsx/esm/api';

register();
// piscina wraps its own data around ours.
const own = Array.isArray(data) ? data[1] : data;
const worker = await import(own.script);
export default worker.default;
