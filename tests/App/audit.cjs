// Works trial balance, open items and aging out of an audit file (XML) and nothing else: no code of Nelbix, no library, whole numbers.
// node audit.cjs FILE.xml DAY prints one JSON document.
'use strict';
const fs = require('fs');
const [, , path, day] = process.argv;

// a reader of elements, in one pass over the file: enough for a file without attributes that matter, comments or CDATA
function read(file, onEnd) {
    const stack = [];
    let rest = '';
    const entities = { lt: '<', gt: '>', amp: '&', quot: '"', apos: "'" };
    const plain = (t) =>
        t.replace(/&(#x?[0-9a-fA-F]+|\w+);/g, (_, e) =>
            e[0] !== '#'
                ? entities[e]
                : String.fromCodePoint(e[1] === 'x' ? parseInt(e.slice(2), 16) : parseInt(e.slice(1), 10)),
        );
    const fd = fs.openSync(file, 'r');
    const buffer = Buffer.alloc(1 << 20);
    const decoder = new (require('string_decoder').StringDecoder)('utf8');
    for (;;) {
        const n = fs.readSync(fd, buffer, 0, buffer.length, null);
        rest += n ? decoder.write(buffer.subarray(0, n)) : decoder.end();
        let at = 0;
        for (;;) {
            const open = rest.indexOf('<', at);
            const close = open < 0 ? -1 : rest.indexOf('>', open);
            if (close < 0) break;
            const text = rest.slice(at, open);
            const tag = rest.slice(open + 1, close);
            at = close + 1;
            if (stack.length && text.trim()) stack[stack.length - 1].text += plain(text);
            if (tag[0] === '?') continue;
            if (tag[0] === '/') {
                const done = stack.pop();
                onEnd(done, stack);
                const parent = stack[stack.length - 1];
                if (parent && parent.keep) (parent.kids[done.name] = parent.kids[done.name] || []).push(done);
            } else {
                const name = tag.split(/[\s/]/)[0];
                const outer = stack[stack.length - 1];
                const keep = (outer && outer.keep) || ['Account', 'Line', 'Invoice', 'Payment'].includes(name);
                stack.push({ name, text: '', kids: {}, keep });
                if (tag.endsWith('/')) onEnd(stack.pop(), stack);
            }
        }
        rest = rest.slice(at);
        if (!n) break;
    }
    if (stack.length) throw new Error('the file ends within ' + stack[stack.length - 1].name);
}
const one = (el, name) => (el.kids[name] && el.kids[name][0].text) || '';
// decimal text to whole minor units
const minor = (text) => {
    const m = /^(-?)(\d+)(?:\.(\d+))?$/.exec(text);
    if (!m) throw new Error('no amount: ' + text);
    return (m[1] ? -1n : 1n) * BigInt(m[2] + (m[3] || ''));
};
const days = (from, to) => Math.round((Date.parse(to) - Date.parse(from)) / 86400000);

const balance = new Map();
const claimed = new Map();
const items = new Map();
const count = { entries: 0, debit: 0n, credit: 0n };
const said = {};
read(path, (el, stack) => {
    const parent = stack.length ? stack[stack.length - 1].name : '';
    if (el.name === 'SelectionStartDate') said.SelectionStartDate = el.text;
    if (parent === 'GeneralLedgerEntries' && ['NumberOfEntries', 'TotalDebit', 'TotalCredit'].includes(el.name)) {
        said[el.name] = el.text;
    }
    if (el.name === 'Account') {
        const of = (w) => (one(el, w + 'DebitBalance') ? minor(one(el, w + 'DebitBalance')) : -minor(one(el, w + 'CreditBalance')));
        balance.set(one(el, 'AccountID'), of('Opening'));
        claimed.set(one(el, 'AccountID'), of('Closing'));
    } else if (el.name === 'Transaction') {
        count.entries += 1;
    } else if (el.name === 'Line' && parent === 'Transaction') {
        const debit = el.kids.DebitAmount ? minor(one(el.kids.DebitAmount[0], 'Amount')) : 0n;
        const credit = el.kids.CreditAmount ? minor(one(el.kids.CreditAmount[0], 'Amount')) : 0n;
        count.debit += debit;
        count.credit += credit;
        balance.set(one(el, 'AccountID'), balance.get(one(el, 'AccountID')) + debit - credit);
    } else if (el.name === 'Invoice' || el.name === 'Payment') {
        for (const s of el.kids.Settlement || []) {
            const side = one(s, 'CustomerID') ? 'receivables' : 'payables';
            const amount = s.kids.SettlementAmount[0];
            items.set(side + ' ' + one(s, 'SettlementDiscount') + ' ' + one(s, 'AccountID'), {
                side,
                number: one(s, 'SettlementDiscount'),
                party: one(s, 'CustomerID') || one(s, 'SupplierID'),
                kind: one(s, 'ItemKind'),
                due: one(s, 'SettlementDate'),
                posted: one(s, 'PostingDate'),
                open: minor(one(amount, 'CurrencyAmount')),
                base: minor(one(amount, 'Amount')),
            });
        }
        if (one(el, 'TransactionDate') <= day) {
            for (const l of el.kids.Line || []) {
                if (one(l, 'LineKind') !== 'applied') continue;
                const side = one(l, 'CustomerID') ? 'receivables' : 'payables';
                const item = items.get(side + ' ' + one(l, 'SourceDocumentID') + ' ' + one(l, 'AccountID'));
                // what was settled whole before the span is left out of the file; after that nothing may be missing
                if (!item && one(el, 'TransactionDate') < said.SelectionStartDate) continue;
                if (!item) throw new Error('no item ' + one(l, 'SourceDocumentID'));
                item.open -= minor(one(l.kids.LineAmount[0], 'CurrencyAmount'));
                item.base -= minor(one(l.kids.LineAmount[0], 'Amount'));
            }
        }
    }
});
if (String(count.entries) !== said.NumberOfEntries || count.debit !== minor(said.TotalDebit) || count.credit !== minor(said.TotalCredit)) {
    throw new Error('the control totals are not those of the entries');
}
for (const [account, amount] of balance) {
    if (amount !== claimed.get(account)) throw new Error(`account ${account} comes to ${amount}, the file says ${claimed.get(account)}`);
}
// aging by due date in 30, 60, 90 days, credits and prepayments by themselves
const PREPAID = ['prepayment', 'to_prepayment'];
const LOWERS = ['credit_note', 'receipt', 'payment', 'hand_over', 'from_prepayment', 'contra'];
const aging = { payables: {}, receivables: {} };
const open = {};
for (const i of items.values()) {
    if (i.posted > day || i.open === 0n) continue;
    open[i.side + ' ' + i.number] = [String(i.open), String(i.base)];
    const row = (aging[i.side][i.party] = aging[i.side][i.party] || Array(7).fill(0n));
    const late = days(i.due, day);
    const lowers = LOWERS.includes(i.kind) || (i.kind === 'debit_note' && i.side === 'payables');
    let at = late <= 0 ? 0 : late <= 30 ? 1 : late <= 60 ? 2 : late <= 90 ? 3 : 4;
    if (lowers) at = 5;
    if (PREPAID.includes(i.kind)) at = 6;
    row[at] += i.base;
}
const text = (o) => Object.fromEntries(Object.entries(o).map(([k, v]) => [k, v.map(String)]));
process.stdout.write(
    JSON.stringify({
        balances: Object.fromEntries([...balance].filter(([, v]) => v !== 0n).map(([k, v]) => [k, String(v)])),
        open,
        aging: { payables: text(aging.payables), receivables: text(aging.receivables) },
    }),
);
