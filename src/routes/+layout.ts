// The page lives in the browser: audio clock, decoders, canvases. The server answers with data.
export const ssr = false;
export const prerender = false;
