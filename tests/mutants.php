<?php

declare(strict_types=1);

/*
 * Wrong lines that a hurried hand might write, each with the tests that must notice it: file, what stands there, what it becomes, filter.
 * Run by tests/mutate listed.
 */
return [
    'the aging leaves out what was settled since' => [
        'src/Books/OpenAsOf.php',
        "'s.settled_on <= :day AND (s.undone_on IS NULL OR s.undone_on > :day)'",
        "'(s.undone_on IS NULL OR s.undone_on > :day)'",
        'AsOfTest|MoneyTest|ListTest',
    ],
    'an undo counts on the day before' => [
        'src/Books/OpenAsOf.php',
        's.undone_on > :day)',
        's.undone_on >= :day)',
        'AsOfTest|MoneyTest|EventsTest',
    ],
    'an unapproved invoice is paid by hand' => [
        'src/Books/MayPay.php',
        "d.approval IN ('awaiting', 'refused')",
        "d.approval IN ('refused')",
        'GuardsTest',
    ],
    'a held invoice is paid' => ['src/Books/MayPay.php', 'd.held_reason IS NOT NULL OR ', '', 'GuardsTest'],
    'a small difference over the tolerance' => [
        'src/Books/AdjustmentLimits.php',
        '        if ($worth > $limit) {',
        '        if ($worth > 1000 * $limit) {',
        'GuardsTest|RangesTest|MoneyTest',
    ],
    'a discount over what is earned' => [
        'src/Books/AdjustmentLimits.php',
        "        if (\$discount > \$most) {\n            throw",
        "        if (\$discount > 2 * \$most) {\n            throw",
        'GuardsTest|MoneyTest',
    ],
    'credits alone earn a discount' => [
        'src/Books/AdjustmentLimits.php',
        'null === $on ? 0 : ($discounts',
        'null === $on ? \\PHP_INT_MAX : ($discounts',
        'GuardsTest|MoneyTest',
    ],
    'undone while it is reserved' => [
        'src/Books/SettlementBook.php',
        'self::mustBeFree($record->number, $record->reservation(), null);',
        '',
        'GuardsTest|ProposalTest|MoneyTest|TakeOutTest',
    ],
    'settled while it is reserved' => [
        'src/Books/SettlementBook.php',
        'if (null !== $by && $by->id !== $proposalId) {',
        'if (null !== $by && false) {',
        'GuardsTest|ProposalTest|MoneyTest',
    ],
    'an undo brings back the whole and not its part' => [
        'src/Books/SettlementBook.php',
        '$record->open += $line->applied;',
        '$record->open = $record->original;',
        'MoneyTest|AsOfTest',
    ],
    'an undo forgets the base amount' => [
        'src/Books/SettlementBook.php',
        '$record->openBase += $line->appliedBase;',
        '',
        'MoneyTest|AsOfTest',
    ],
    'dated before it was opened again' => [
        'src/Books/SettlementBook.php',
        'if (isset($undone[$id]) && $date->isBefore($undone[$id])) {',
        'if (isset($undone[$id]) && $date->isAfter($undone[$id])) {',
        'EventsTest',
    ],
    'held() locks nothing' => [
        'src/Books/ItemLocks.php',
        "') ORDER BY id FOR UPDATE',",
        "') ORDER BY id',",
        'ImportLocksTest',
    ],
    'hold() locks nothing' => [
        'src/Books/ItemLocks.php',
        "') ORDER BY id FOR UPDATE) held',",
        "') ORDER BY id) held',",
        'ImportLocksTest',
    ],
    'a posting does not hold its period' => [
        'src/Ledger/LedgerWriter.php',
        'fn () => $this->periods->hold($actor->companyId, $order->day, $order->sides),',
        'static fn () => null,',
        'SeenTest',
    ],
    'a locked side is not looked at' => [
        'src/Ledger/PeriodGate.php',
        "if ((bool) \$row[\$side->value.'_locked']) {",
        'if (false) {',
        'PostingTest|SeenTest',
    ],
    'exactly at the limit is over it' => [
        'src/People/SomebodyElse.php',
        '$amount > min($limits)',
        '$amount >= min($limits)',
        'ProposalTest|PostingTest|GuardsTest',
    ],
    'of two limits the higher one holds' => [
        'src/People/SomebodyElse.php',
        '$amount > min($limits)',
        '$amount > max($limits)',
        'ProposalTest|PostingTest|GuardsTest',
    ],
    'who changed it may approve it' => [
        'src/People/SomebodyElse.php',
        '$madeBy === $actor->userId || $this->has($actor->companyId, $subject, $id, $actor->userId)',
        '$madeBy === $actor->userId',
        'ProposalTest|PostingTest|GuardsTest',
    ],
    'exactly at the approval setting awaits' => [
        'src/Invoices/PostInvoice.php',
        '$plan->base > $limit',
        '$plan->base >= $limit',
        'PostingTest|RangesTest|SetupTest|GuardsTest',
    ],
    'what was seen is not asked of an approval' => [
        'src/Payables/DecideProposal.php',
        'null !== $seen && $proposal->version !== $seen + 1',
        'false',
        'SeenTest',
    ],
    'a lease is not looked at' => [
        'src/Work/Worker.php',
        'AND (owner IS NULL OR owner = ? OR owned_until < NOW(3))',
        'AND (1 = 1 OR owner = ?)',
        'LeaseTest',
    ],
    'the same form twice makes two' => [
        'src/Platform/Transaction.php',
        'if (0 === (int) $mine) {',
        'if (false) {',
        'PostingTest|ConcurrencyTest|ScreenTest',
    ],
    'a check of a file keeps what it tried' => [
        'src/Import/TakeRecords.php',
        "                    \$entities->flush();\n                    throw new NothingKept();\n                });",
        "                    \$entities->flush();\n                });",
        'ImportTest|ImportLocksTest|WorkTest',
    ],
    'another company’s item is paid' => [
        'src/Books/ItemLocks.php',
        'WHERE company_id = ? AND id IN (',
        'WHERE ? > 0 AND id IN (',
        'GuardsTest|MoneyTest|DoorsTest',
    ],
    'a page begins with the row it ended with' => [
        'src/Platform/Keyset.php',
        "\$than = \$this->down ? '<' : '>';",
        "\$than = \$this->down ? '<=' : '>=';",
        'ListTest',
    ],
    'a payment in a foreign currency is not converted for the limit' => [
        'src/Payables/DecideProposal.php',
        '$this->rates->on($actor->companyId, $currency, $actor->baseCurrency, $proposal->payDate),',
        '\\Brick\\Math\\BigDecimal::one(),',
        'ProposalTest|DueTest|GuardsTest',
    ],
];
