// Where $lib leads; without it the import rules would not see through the name.
const { resolve } = require('node:path');
module.exports = { resolve: { alias: { $lib: resolve(__dirname, '../../src/lib') } } };
