<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Statement;

use Nelbix\Core\Money\Money;

/** Writes a statement as CSV with a running balance. Source: RFC 4180; common practice. */
final class CsvStatementWriter implements StatementWriter
{
    public function write(BankStatement $statement): string
    {
        $rows = [
            ['date', 'value date', 'amount', 'balance', 'name', 'account', 'text', 'reference', 'bank ref', 'check'],
        ];
        $balance = $statement->opening;
        foreach ($statement->lines as $l) {
            $balance += $l->amount;
            $rows[] = [
                $l->day->iso(),
                $l->value?->iso() ?? '',
                Money::of($l->amount, $statement->currency)->decimal(),
                Money::of($balance, $statement->currency)->decimal(),
                $l->party,
                $l->account,
                $l->text,
                $l->reference,
                $l->bankReference,
                $l->check,
            ];
        }

        return implode(
            '',
            array_map(
                static fn (array $r): string => implode(
                    ',',
                    array_map(
                        static fn (string $c): string => 1 === preg_match('/[",\r\n]/', $c)
                            ? '"'.str_replace('"', '""', $c).'"'
                            : $c,
                        $r,
                    ),
                )."\r\n",
                $rows,
            ),
        );
    }
}
