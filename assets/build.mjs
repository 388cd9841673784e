// Copies scripts and fonts beside the built styles, so that nothing is fetched at run time.
import { cpSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';

const out = 'public/build/';
mkdirSync(out + 'files', { recursive: true });
for (const font of ['commissioner', 'literata']) {
    const dir = `node_modules/@fontsource-variable/${font}/files/`;
    for (const file of readdirSync(dir)) {
        if (/-latin(-ext)?-wght-normal\.woff2$/.test(file)) cpSync(dir + file, out + 'files/' + file);
    }
}
cpSync('node_modules/htmx.org/dist/htmx.min.js', out + 'htmx.js');
cpSync('node_modules/idiomorph/dist/idiomorph-ext.min.js', out + 'idiomorph.js');
writeFileSync(
    out + 'app.js',
    readdirSync('assets/js')
        .sort()
        .map((f) => readFileSync('assets/js/' + f, 'utf8'))
        .join('\n'),
);
