<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Payment;

use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;

/**
 * ACH credits in the record layout of the NACHA Operating Rules: lines of 94 characters, one batch of CCD entries with an
 * addendum that names the invoices. Source: the published record layout, from memory; files are read back by a reference library in
 * the tests.
 */
final readonly class AchFile implements PaymentFile
{
    private const WIDTH = 94;
    private const CREDIT = '22';
    private const PRENOTE = '23';
    private const DEBIT = '27';

    /** @param bool $balanced the file debits our account itself, so that its debits equal its credits */
    public function __construct(private bool $balanced)
    {
    }

    public function extension(): string
    {
        return 'ach';
    }

    public function write(PaymentOrder $order): string
    {
        if ('USD' !== $order->currency) {
            throw Refused::because('format', 'ACH pays in USD; make another file for this currency.');
        }
        if (!$order->from->hasRouting() || '' === $order->companyNumber) {
            throw Refused::because(
                'bank',
                'ACH needs our bank’s routing number, our account number and the number the bank knows us by; enter '.
                    'them under Setup, Bank accounts.',
            );
        }
        $prenotes = [] === array_filter($order->transfers, static fn (Transfer $t): bool => 0 !== $t->amount);
        $odfi = substr($order->from->routing, 0, 8);
        $lines = [];
        $hash = $credits = 0;
        $trace = 0;
        foreach ($order->transfers as $t) {
            if (!$t->to->hasRouting()) {
                throw Refused::because(
                    'format',
                    \sprintf(
                        '%s has no routing and account number; pay it another way, or by an ISO 20022 file.',
                        $t->name,
                    ),
                );
            }
            $addendum = self::addendum($t, $order->currency);
            $lines[] = self::entry(
                0 === $t->amount ? self::PRENOTE : self::CREDIT,
                $t->to,
                $t->amount,
                $t->id,
                $t->name,
                '' !== $addendum,
                $odfi,
                ++$trace,
            );
            if ('' !== $addendum) {
                $lines[] = '705'.self::text($addendum, 80).'0001'.self::number($trace, 7);
            }
            $hash += (int) substr($t->to->routing, 0, 8);
            $credits += $t->amount;
        }
        $debits = 0;
        if ($this->balanced && !$prenotes) {
            $lines[] = self::entry(
                self::DEBIT,
                $order->from,
                $credits,
                $order->id,
                $order->name,
                false,
                $odfi,
                ++$trace,
            );
            $hash += (int) $odfi;
            $debits = $credits;
        }
        $class = $debits > 0 ? '200' : '220';
        $company = self::text($order->companyNumber, 10);
        $totals = self::number($hash % 10_000_000_000, 10).self::number($debits, 12).self::number($credits, 12);
        $records = [
            '101 '.
            self::number((int) $order->from->routing, 9).
            $company.
            $order->made->format('ymdHi').
            'A094101'.
            self::text($order->bankName, 23).
            self::text($order->name, 23).
            self::text($order->id, 8),
            '5'.
            $class.
            self::text($order->name, 16).
            self::text('', 20).
            $company.
            'CCD'.
            self::text($prenotes ? 'PRENOTE' : 'PAYMENT', 10).
            self::date($order).
            self::date($order).
            '   1'.
            $odfi.
            '0000001',
            ...$lines,
            '8'.
            $class.
            self::number(\count($lines), 6).
            $totals.
            $company.
            self::text('', 25).
            $odfi.
            '0000001',
            '9000001'.
            self::number(intdiv(\count($lines) + 4 + 9, 10), 6).
            self::number(\count($lines), 8).
            $totals.
            self::text('', 39),
        ];
        while (0 !== \count($records) % 10) {
            $records[] = str_repeat('9', self::WIDTH);
        }
        foreach ($records as $record) {
            \assert(self::WIDTH === \strlen($record));
        }

        return implode("\n", $records)."\n";
    }

    private static function entry(
        string $code,
        BankKey $to,
        int $amount,
        string $id,
        string $name,
        bool $addendum,
        string $odfi,
        int $trace,
    ): string {
        return '6'.
            $code.
            self::number((int) $to->routing, 9).
            self::text($to->account, 17).
            self::number($amount, 10).
            self::text($id, 15).
            self::text($name, 22).
            '  '.
            ($addendum ? '1' : '0').
            $odfi.
            self::number($trace, 7);
    }

    /** The invoices as remittance segments, as many as fit whole into one addendum. */
    private static function addendum(Transfer $t, string $currency): string
    {
        $text = '';
        foreach ($t->pays as $pay) {
            $segment = \sprintf(
                'RMR*IV*%s**%s\\',
                (string) preg_replace('/[*\\\\~]/', ' ', $pay['number']),
                Money::of($pay['amount'], $currency)->decimal(),
            );
            if (\strlen(self::ascii($text.$segment)) > 80) {
                break;
            }
            $text .= $segment;
        }

        return $text;
    }

    private static function date(PaymentOrder $order): string
    {
        return substr(str_replace('-', '', $order->payDate->iso()), 2);
    }

    private static function text(string $text, int $width): string
    {
        return str_pad(substr(strtoupper(self::ascii($text)), 0, $width), $width);
    }

    private static function number(int $number, int $width): string
    {
        $digits = str_pad((string) $number, $width, '0', \STR_PAD_LEFT);

        return \strlen($digits) > $width
            ? throw Refused::because(
                'format',
                \sprintf('%d does not fit into the %d places that ACH has for it; make two files.', $number, $width),
            )
            : $digits;
    }

    /** Letters that the layout does not know become their nearest, the rest a space. */
    private static function ascii(string $text): string
    {
        $plain = transliterator_transliterate('Any-Latin; Latin-ASCII', $text);

        return (string) preg_replace('/[^\x20-\x7E]/', ' ', false === $plain ? $text : $plain);
    }
}
