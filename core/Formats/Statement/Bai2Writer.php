<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Statement;

/** Writes BAI2; a group a file. Source: BAI, Cash Management Balance Reporting Specifications, Version 2. */
final class Bai2Writer implements StatementWriter
{
    public function write(BankStatement $statement): string
    {
        $day = substr(str_replace('-', '', $statement->to->iso()), 2);
        $account = '' === $statement->account ? '0' : $statement->account;
        $rows = [
            \sprintf(
                '03,%s,%s,010,%d,,,015,%d,,/',
                $account,
                $statement->currency,
                $statement->opening,
                $statement->closing,
            ),
        ];
        $control = $statement->opening + $statement->closing;
        foreach ($statement->lines as $line) {
            $control += abs($line->amount);
            $check = '' !== $line->check;
            $value = null === $line->value ? $day : substr(str_replace('-', '', $line->value->iso()), 2);
            $rows[] = \sprintf(
                '16,%s,%d,V,%s,,%s,%s,%s',
                $line->amount > 0 ? '195' : ($check ? '475' : '495'),
                abs($line->amount),
                $value,
                self::plain($line->bankReference),
                self::plain($check ? $line->check : $line->reference),
                trim(self::plain(trim($line->party.' '.$line->text))),
            );
        }
        $rows[] = \sprintf('49,%d,%d/', $control, \count($rows) + 1);
        $head = [
            '01,BANK,US,'.$day.',2359,1,80,,2/',
            '02,US,BANK,1,'.$day.',2359,'.$statement->currency.',2/',
        ];
        $foot = [
            \sprintf('98,%d,1,%d/', $control, \count($rows) + 2),
            \sprintf('99,%d,1,%d/', $control, \count($rows) + 4),
        ];

        return implode("\r\n", [...$head, ...$rows, ...$foot])."\r\n";
    }

    private static function plain(string $text): string
    {
        return mb_substr(trim((string) preg_replace('/[\s,\/]+/', ' ', $text)), 0, 200);
    }
}
