// Writes a direct debit file with a library that is not ours, from a small JSON on standard input.
'use strict';
const SEPA = require('sepa');
let json = '';
process.stdin.on('data', (d) => { json += d; }).on('end', () => {
  const o = JSON.parse(json);
  const doc = new SEPA.Document('pain.008.001.08');
  doc.grpHdr.id = o.id;
  doc.grpHdr.created = new Date(o.made);
  doc.grpHdr.initiatorName = o.name;
  o.blocks.forEach((b) => {
    const info = doc.createPaymentInfo();
    info.collectionDate = new Date(o.date);
    info.creditorIBAN = o.iban;
    info.creditorBIC = o.bic;
    info.creditorName = o.name;
    info.creditorId = o.creditor;
    info.sequenceType = b.sequence;
    info.localInstrumentation = b.scheme;
    doc.addPaymentInfo(info);
    b.debits.forEach((t) => {
      const tx = info.createTransaction();
      tx.debtorName = t.name; tx.debtorIBAN = t.iban; tx.debtorBIC = t.bic; tx.amount = t.amount; tx.end2endId = t.id;
      tx.mandateId = t.mandate; tx.mandateSignatureDate = new Date(t.signed); tx.remittanceInfo = t.text;
      info.addTransaction(tx);
    });
  });
  process.stdout.write(doc.toString());
});
