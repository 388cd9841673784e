// Reads a statement with a library that is not ours, from standard input: balances and lines as JSON, amounts in minor units.
'use strict';
const minor = (v) => Math.round(Number(v) * 100);
const readers = {
  async camt053(text) {
    const s = (await require('camt-parser').parseCamt053(text)).statements[0];
    const signed = (x) => (x.creditDebitIndicator === 'DBIT' ? -1 : 1) * minor(x.amount.value);
    const balance = (type) => signed(s.balances.find((b) => b.type === type));
    return {
      opening: balance('OPBD'),
      closing: balance('CLBD'),
      lines: s.transactions.map((t) => [t.bookingDate, signed(t), t.accountServicerReference]),
    };
  },
  async mt940(text) {
    const s = (await require('mt940-js').read(Buffer.from(text)))[0];
    const balance = (b) => minor(b.isCredit ? b.value : -b.value);
    return {
      opening: balance(s.openingBalance),
      closing: balance(s.closingBalance),
      lines: s.transactions.map((t) => [t.entryDate, minor(t.isCredit ? t.amount : -t.amount)]),
    };
  },
  async ofx(text) {
    const s = require('ofx-js').parseSync(text).OFX.BANKMSGSRSV1.STMTTRNRS.STMTRS;
    return {
      closing: minor(s.LEDGERBAL.BALAMT),
      lines: [].concat(s.BANKTRANLIST.STMTTRN).map((t) => [
        String(t.DTPOSTED).slice(0, 8), minor(t.TRNAMT), String(t.CHECKNUM ?? ''), String(t.MEMO ?? t.NAME ?? ''),
      ]),
    };
  },
};
let text = '';
process.stdin.on('data', (d) => { text += d; }).on('end', async () => {
  process.stdout.write(JSON.stringify(await readers[process.argv[2]](text)));
});
