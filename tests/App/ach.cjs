// Reads an ACH file with a library that is not ours, from standard input: its parts as JSON, and the file as the library writes it again.
'use strict';
const nacha = require('@midlandsbank/node-nacha');
let text = '';
process.stdin.on('data', (d) => { text += d; }).on('end', async () => {
  const read = await nacha.from({ format: 'ach', source: text });
  const object = read.data;
  process.stdout.write(JSON.stringify({ file: object.file, batches: object.batches }));
});
