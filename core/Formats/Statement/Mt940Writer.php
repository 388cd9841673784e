<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Statement;

use Nelbix\Core\Money\Money;

/** Writes a SWIFT MT940 customer statement; field 86 with subfields for text, account and name. Source: SWIFT user handbook, category 9. */
final class Mt940Writer implements StatementWriter
{
    public function write(BankStatement $statement): string
    {
        $rows = [
            ':20:STATEMENT',
            ':25:'.$statement->account,
            ':28C:'.self::plain($statement->number, 11),
            ':60F:'.self::balance($statement->opening, $statement->from->iso(), $statement->currency),
        ];
        foreach ($statement->lines as $line) {
            $day = str_replace('-', '', $line->day->iso());
            $value = null === $line->value ? $day : str_replace('-', '', $line->value->iso());
            $reference = '' === $line->check ? $line->reference : $line->check;
            // a reversal of a credit takes money away
            $mark = $line->reversal ? ($line->amount > 0 ? 'RD' : 'RC') : ($line->amount > 0 ? 'C' : 'D');
            $rows[] = \sprintf(
                ':61:%s%s%s%s%s%s%s',
                substr($value, 2),
                substr($day, 4),
                $mark,
                self::amount($line->amount, $statement->currency),
                '' === $line->check ? 'NTRF' : 'NCHK',
                '' === $reference ? 'NONREF' : self::plain($reference, 16),
                '' === $line->bankReference ? '' : '//'.self::plain($line->bankReference, 16),
            );
            $rows[] = ':86:'.self::told($line);
        }
        $rows[] = ':62F:'.self::balance($statement->closing, $statement->to->iso(), $statement->currency);

        return implode("\r\n", $rows)."\r\n-\r\n";
    }

    private static function balance(int $minor, string $iso, string $currency): string
    {
        return ($minor < 0 ? 'D' : 'C').
            substr(str_replace('-', '', $iso), 2).
            $currency.
            self::amount($minor, $currency);
    }

    private static function amount(int $minor, string $currency): string
    {
        $decimal = Money::of(abs($minor), $currency)->decimal();

        return str_contains($decimal, '.') ? str_replace('.', ',', $decimal) : $decimal.',';
    }

    private static function told(StatementLine $line): string
    {
        $said = '166';
        foreach (\array_slice(mb_str_split(self::plain($line->text, 270), 27), 0, 10) as $k => $part) {
            $said .= '?2'.$k.$part;
        }
        $said .= '' === $line->account ? '' : '?31'.self::plain($line->account, 34);
        $said .= '' === $line->party ? '' : '?32'.self::plain($line->party, 27);

        return implode("\r\n", mb_str_split($said, 65));
    }

    private static function plain(string $text, int $most): string
    {
        return mb_substr(trim((string) preg_replace('/[\s?]+/', ' ', $text)), 0, $most);
    }
}
