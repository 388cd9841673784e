// Makes an invoice in UBL, or in the syntax that is named, with a library that is not ours, from the internal JSON on standard input; the library checks its schema.
'use strict';
const { InvoiceService } = require('@e-invoice-eu/core');
const quiet = { log() {}, warn() {}, error() {}, info() {}, debug() {} };
let json = '';
process.stdin.on('data', (d) => { json += d; }).on('end', async () => {
  try {
    const format = process.argv[2] || 'UBL';
    process.stdout.write(await new InvoiceService(quiet).generate(JSON.parse(json), { format, lang: 'en' }));
  } catch (e) {
    process.stderr.write(`${e.message}\n${JSON.stringify(e.errors || e.validationErrors || '', null, 1)}`);
    process.exit(1);
  }
});
