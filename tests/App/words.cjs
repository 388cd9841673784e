// Spells whole numbers with a library that is not ours: one a line on standard input.
'use strict';
const { toWords } = require('number-to-words');
let text = '';
process.stdin.on('data', (d) => { text += d; }).on('end', () => { process.stdout.write(text.trim().split('\n').map((n) => toWords(Number(n)).replace(/,/g, '')).join('\n')); });
