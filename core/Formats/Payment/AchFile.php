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
    private const CREDIT = '22';
    private const PRENOTE = '23';
    private const DEBIT = '27';
    private const CREDITS_ONLY = '220';
    private const MIXED = '200';
    private const BATCH = '0000001';

    /** Records in a block; the file is filled up to whole ones. */
    private const BLOCK = 10;

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
        $entries = $this->entries($order);
        $debits = $this->debits($order);
        $hash = self::hash($order, $debits > 0);
        $records = [
            self::fileHeader($order),
            self::batchHeader($order, $debits),
            ...$entries,
            self::batchControl($order, \count($entries), $hash, $debits),
            self::fileControl($order, \count($entries), $hash, $debits),
        ];
        while (0 !== \count($records) % self::BLOCK) {
            $records[] = AchRecord::filler();
        }

        return implode("\n", $records)."\n";
    }

    /** @return list<string> an entry for each payee, its addendum, and the debit of our own account */
    private function entries(PaymentOrder $order): array
    {
        $records = [];
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
            $code = 0 === $t->amount ? self::PRENOTE : self::CREDIT;
            $records[] = self::entry($order, $code, $t->to, $t->amount, $t->id, $t->name, '' !== $addendum, ++$trace);
            if ('' !== $addendum) {
                $records[] = AchRecord::of('705', AchRecord::text($addendum, 80), '0001', AchRecord::number($trace, 7));
            }
        }
        $debits = $this->debits($order);
        if ($debits > 0) {
            $records[] = self::entry(
                $order,
                self::DEBIT,
                $order->from,
                $debits,
                $order->id,
                $order->name,
                false,
                ++$trace,
            );
        }

        return $records;
    }

    /** What our own account is debited in the file itself, minor units. */
    private function debits(PaymentOrder $order): int
    {
        return $this->balanced ? $order->total() : 0;
    }

    /** The first eight digits of every account's routing number, added up; ten places of it. */
    private static function hash(PaymentOrder $order, bool $debited): int
    {
        $sum = $debited ? (int) self::odfi($order) : 0;
        foreach ($order->transfers as $t) {
            $sum += (int) substr($t->to->routing, 0, 8);
        }

        return $sum % 10_000_000_000;
    }

    /** Our bank, the originating depository: its routing number without the check digit. */
    private static function odfi(PaymentOrder $order): string
    {
        return substr($order->from->routing, 0, 8);
    }

    private static function fileHeader(PaymentOrder $order): string
    {
        return AchRecord::of(
            '101 ',
            AchRecord::number((int) $order->from->routing, 9),
            AchRecord::text($order->companyNumber, 10),
            $order->made->format('ymdHi'),
            'A094101',
            AchRecord::text($order->bankName, 23),
            AchRecord::text($order->name, 23),
            AchRecord::text($order->id, 8),
        );
    }

    private static function batchHeader(PaymentOrder $order, int $debits): string
    {
        $day = substr(str_replace('-', '', $order->payDate->iso()), 2);

        return AchRecord::of(
            '5',
            self::serviceClass($debits),
            AchRecord::text($order->name, 16),
            AchRecord::text('', 20),
            AchRecord::text($order->companyNumber, 10),
            'CCD',
            AchRecord::text(0 === $order->total() ? 'PRENOTE' : 'PAYMENT', 10),
            $day,
            $day,
            '   1',
            self::odfi($order),
            self::BATCH,
        );
    }

    private static function batchControl(PaymentOrder $order, int $entries, int $hash, int $debits): string
    {
        return AchRecord::of(
            '8',
            self::serviceClass($debits),
            AchRecord::number($entries, 6),
            self::totals($order, $hash, $debits),
            AchRecord::text($order->companyNumber, 10),
            AchRecord::text('', 25),
            self::odfi($order),
            self::BATCH,
        );
    }

    private static function fileControl(PaymentOrder $order, int $entries, int $hash, int $debits): string
    {
        return AchRecord::of(
            '9000001',
            AchRecord::number(intdiv($entries + 4 + self::BLOCK - 1, self::BLOCK), 6),
            AchRecord::number($entries, 8),
            self::totals($order, $hash, $debits),
            AchRecord::text('', 39),
        );
    }

    private static function totals(PaymentOrder $order, int $hash, int $debits): string
    {
        return AchRecord::number($hash, 10).AchRecord::number($debits, 12).AchRecord::number($order->total(), 12);
    }

    private static function serviceClass(int $debits): string
    {
        return $debits > 0 ? self::MIXED : self::CREDITS_ONLY;
    }

    private static function entry(
        PaymentOrder $order,
        string $code,
        BankKey $to,
        int $amount,
        string $id,
        string $name,
        bool $addendum,
        int $trace,
    ): string {
        return AchRecord::of(
            '6',
            $code,
            AchRecord::number((int) $to->routing, 9),
            AchRecord::text($to->account, 17),
            AchRecord::number($amount, 10),
            AchRecord::text($id, 15),
            AchRecord::text($name, 22),
            '  ',
            $addendum ? '1' : '0',
            self::odfi($order),
            AchRecord::number($trace, 7),
        );
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
            if (\strlen(AchRecord::ascii($text.$segment)) > 80) {
                break;
            }
            $text .= $segment;
        }

        return $text;
    }
}
