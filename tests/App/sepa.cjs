// Writes a credit transfer file with a library that is not ours, from a small JSON on standard input.
'use strict';
const SEPA = require('sepa');
let json = '';
process.stdin.on('data', (d) => { json += d; }).on('end', () => {
  const o = JSON.parse(json);
  const doc = new SEPA.Document('pain.001.001.09');
  doc.grpHdr.id = o.id;
  doc.grpHdr.created = new Date(o.made);
  doc.grpHdr.initiatorName = o.name;
  const info = doc.createPaymentInfo();
  info.id = `${o.id}-1`;
  info.requestedExecutionDate = new Date(o.date);
  info.debtorIBAN = o.iban;
  info.debtorBIC = o.bic;
  info.debtorName = o.name;
  info.debtorId = 'DE98ZZZ09999999999';
  doc.addPaymentInfo(info);
  o.transfers.forEach((t) => {
    const tx = info.createTransaction();
    tx.creditorName = t.name; tx.creditorIBAN = t.iban; tx.creditorBIC = t.bic; tx.amount = t.amount; tx.end2endId = t.id; tx.remittanceInfo = t.text;
    info.addTransaction(tx);
  });
  process.stdout.write(doc.toString());
});
