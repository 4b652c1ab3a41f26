/**
 * The built server's way in. It listens at once and shows a page that says so until the database answers; then it
 * hands every request to the app.
 */
import { createServer, type IncomingMessage, type RequestListener, type ServerResponse } from 'node:http';
import { fileURLToPath } from 'node:url';
import { refusal } from '../access/request-guard';
import { DataLockedError } from '../db/data-lock';
import { startingPage } from './starting-page';

const host = '127.0.0.1';
const port = Number(process.env['PORT'] ?? 4840);
const SHUTDOWN_MS = 8000;

// Uploads and long lists of calls are bounded where they are read, not here.
process.env['BODY_SIZE_LIMIT'] = 'Infinity';

let handler: RequestListener | undefined;
let isReady: (app: RequestListener) => void = () => undefined;
const ready = new Promise<RequestListener>((resolve) => (isReady = resolve));

const server = createServer((request, response) => {
	isolate(response);
	const reason = refusal({
		method: request.method ?? 'GET',
		host: request.headers.host,
		origin: request.headers.origin,
		fetchSite: header(request, 'sec-fetch-site')
	});
	if (reason) {
		response.writeHead(403, { 'content-type': 'text/plain; charset=utf-8' }).end(reason);
		return;
	}
	if (handler) handler(request, response);
	else if (!wantsPage(request)) void ready.then((app) => app(request, response));
	else
		response
			.writeHead(503, { 'content-type': 'text/html; charset=utf-8', 'retry-after': '1', 'cache-control': 'no-store' })
			.end(startingPage());
});

/** Shared memory in workers needs these on every answer, static files too. */
function isolate(response: ServerResponse): void {
	response.setHeader('Cross-Origin-Opener-Policy', 'same-origin');
	response.setHeader('Cross-Origin-Embedder-Policy', 'require-corp');
	response.setHeader('Cross-Origin-Resource-Policy', 'same-origin');
	response.setHeader('X-Content-Type-Options', 'nosniff');
	response.setHeader('Referrer-Policy', 'no-referrer');
	response.setHeader('X-Frame-Options', 'DENY');
}

/** Whoever looks is shown that it starts; a page that asks for data, or goes on with an upload, waits a little. */
function wantsPage(request: IncomingMessage): boolean {
	return request.method === 'GET' && (header(request, 'accept') ?? '').includes('text/html');
}

function header(request: IncomingMessage, name: string): string | undefined {
	const value = request.headers[name];
	return Array.isArray(value) ? value[0] : value;
}

server.on('error', (error: NodeJS.ErrnoException) => {
	const sentence = error.code === 'EADDRINUSE' ? `Port ${port} is taken. Choose another with --port.` : error.message;
	process.stderr.write(`${sentence}\n`);
	process.exit(1);
});

/** Files of the page that were replaced by a new build are missing under their old names: no reason to end all that runs. */
process.on('uncaughtException', (error: NodeJS.ErrnoException) => {
	const client = fileURLToPath(new URL('../client/', import.meta.url));
	if (error.code === 'ENOENT' && error.path?.startsWith(client)) {
		process.stderr.write('Open Choir was built anew while it ran. Start it again to get the new pages.\n');
		return;
	}
	process.stderr.write(`${error.stack ?? String(error)}\n`);
	process.exit(1);
});

server.listen(port, host, () => void open());

async function open(): Promise<void> {
	const address = server.address();
	const actual = typeof address === 'object' && address ? address.port : port;
	process.env['ORIGIN'] = `http://${host}:${actual}`;
	process.stdout.write(`Open Choir is starting at http://${host}:${actual}\n`);
	try {
		const path = '../handler.js';
		const app = (await import(/* @vite-ignore */ new URL(path, import.meta.url).href)) as { handler: RequestListener };
		handler = app.handler;
		isReady(app.handler);
		process.stdout.write(`Open Choir is ready at http://${host}:${actual}\n`);
	} catch (error) {
		const known =
			error instanceof DataLockedError ||
			(error as Error)?.name === 'DataLockedError' ||
			(error as Error)?.name === 'DatabaseFolderError' ||
			(error as Error)?.name === 'AccessError';
		process.stderr.write(
			known
				? `${(error as Error).message}\n`
				: `Open Choir could not start.\n${(error as Error)?.stack ?? String(error)}\n`
		);
		process.exit(1);
	}
}

let closing = false;
function shutDown(): void {
	if (closing) return;
	closing = true;
	server.close();
	server.closeAllConnections();
	process.once('open-choir:closed', () => process.exit(0));
	setTimeout(() => process.exit(1), SHUTDOWN_MS).unref();
	const heard = process.emit('sveltekit:shutdown' as never, 'signal' as never);
	if (!heard) process.exit(0);
}
process.on('SIGTERM', shutDown);
process.on('SIGINT', shutDown);
