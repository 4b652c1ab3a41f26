/** Whether what takes long is checked in full (`npm run check:long`), or a part of it (`./test`). */
export const IS_LONG = process.env['OPEN_CHOIR_LONG'] === 'yes';
