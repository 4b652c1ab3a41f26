import { EventEmitter } from 'node:events';
import type { ServerEvent } from '../../contract/events';

/** Tells whoever listens what happens: pages, and what is kept in memory. */
export interface Bus {
	publish(event: ServerEvent): void;
	/** @returns the end of it */
	subscribe(listener: (event: ServerEvent) => void): () => void;
}

/** More pages than this at once are a fault. */
const MAX_LISTENERS = 200;

export function createBus(): Bus {
	const events = new EventEmitter<{ event: [ServerEvent] }>();
	events.setMaxListeners(MAX_LISTENERS);
	return {
		publish: (event) => void events.emit('event', event),
		subscribe(listener) {
			events.on('event', listener);
			return () => events.off('event', listener);
		}
	};
}
