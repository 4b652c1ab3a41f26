declare global {
	// eslint-disable-next-line @typescript-eslint/no-namespace
	namespace App {
		interface Error {
			message: string;
		}
	}
}

export {};
