// Brings fonts and htmx from the package folder into the application; nothing is fetched at run time.
import { cpSync, mkdirSync } from 'node:fs';
const lib = 'src/Glenfrost.Web/wwwroot/lib';
mkdirSync(lib, { recursive: true });
cpSync('node_modules/htmx.org/dist/htmx.min.js', `${lib}/htmx.min.js`);
cpSync('node_modules/@fontsource/noto-sans-math/files/noto-sans-math-latin-400-normal.woff2', `${lib}/signs.woff2`);
for (const face of ['next', 'mono'])
  cpSync(`node_modules/@fontsource-variable/atkinson-hyperlegible-${face}/files/atkinson-hyperlegible-${face}-latin-wght-normal.woff2`, `${lib}/${face}.woff2`);
