<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Doctrine\DBAL\Connection;
use Nelbix\App\Bank\BankRow;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Statement\Bai2Writer;
use Nelbix\Core\Formats\Statement\BankStatement;
use Nelbix\Core\Formats\Statement\Camt053Writer;
use Nelbix\Core\Formats\Statement\CsvStatementWriter;
use Nelbix\Core\Formats\Statement\Mt940Writer;
use Nelbix\Core\Formats\Statement\OfxWriter;
use Nelbix\Core\Formats\Statement\StatementLine;
use Nelbix\Core\Formats\Statement\StatementWriter;
use Nelbix\Core\Placement\Movement;
use Nelbix\Core\Refused;

/**
 * Stands in for the bank: makes statements of what the books moved, days later as money takes, with what banks add of their own. The
 * same books give the same statement. Nothing leaves this machine.
 */
final readonly class StatementStandIn
{
    public const FORMATS = ['camt053', 'mt940', 'bai2', 'ofx', 'csv'];

    /** A transfer is there the next day, a check takes longer; so many of a hundred checks are not handed in for weeks. */
    private const CHECK_DAYS = [3, 4, 5, 7, 9];
    private const LATE_CHECKS = 4;

    /** Fee of a month, interest of a quarter, and what nobody knows, in minor units. */
    private const FEE = -1_850;
    private const INTEREST = 1_240;
    private const UNKNOWN = 37_500;

    /** What was paid by card on the way: so much, for what, days before the end. */
    private const CARD = [
        [-6_420, 'FUEL DEPOT QUAY', 11],
        [-1_180, 'PARKING ALDER POINT', 10],
        [-7_035, 'FUEL DEPOT QUAY', 8],
        [-2_350, 'FERRY TERN ISLAND', 8],
        [-4_499, 'CHART WORKS', 7],
        [-1_180, 'PARKING ALDER POINT', 5],
        [-6_890, 'FUEL DEPOT QUAY', 4],
        [-2_350, 'FERRY TERN ISLAND', 3],
        [-990, 'POST OFFICE BARROW', 2],
        [-1_180, 'PARKING ALDER POINT', 1],
    ];

    public function __construct(private Connection $db, private Movements $movements)
    {
    }

    /**
     * From the day after the last statement through a day; the first opens with nothing, on the day of the first movement.
     *
     * @param bool $odd with an unknown transfer, a wrong amount and a line twice
     *
     * @throws Refused when there is no day to make one of
     */
    public function make(BankRow $bank, Day $to, bool $odd): BankStatement
    {
        $last = $this->db->fetchAssociative(
            'SELECT to_day, closing FROM bank_statement WHERE bank_account_id = ? ORDER BY to_day DESC, id DESC LIMIT 1',
            [$bank->id],
        );
        $open = $this->movements->open($bank);
        $from = false === $last ? $open[0]->day ?? $to : Day::of((string) $last['to_day'])->plusDays(1);
        if ($from->isAfter($to)) {
            throw Refused::because('to', 'There is a statement through that day already; the bank has nothing newer.');
        }
        $lines = [];
        foreach ($open as $movement) {
            $booked = $this->booked($movement);
            if (!$booked->isBefore($from) && !$booked->isAfter($to)) {
                $lines[] = self::line($movement, $booked);
            }
        }
        array_push($lines, ...$this->ownLines($from, $to), ...$odd ? $this->oddLines($lines, $to) : []);
        if ($odd) {
            $lines = self::oneWrong($lines);
        }
        usort($lines, static fn (StatementLine $a, StatementLine $b): int => $a->day->iso() <=> $b->day->iso());
        $opening = false === $last ? 0 : (int) $last['closing'];
        $sum = array_sum(array_map(static fn (StatementLine $l): int => $l->amount, $lines));

        return new BankStatement(
            str_replace('-', '', $to->iso()),
            '' === $bank->iban ? $bank->accountNumber : $bank->iban,
            $bank->currency,
            $from,
            $to,
            $opening,
            $opening + $sum,
            $lines,
        );
    }

    public static function writer(string $format): StatementWriter
    {
        return match ($format) {
            'camt053' => new Camt053Writer(),
            'mt940' => new Mt940Writer(),
            'bai2' => new Bai2Writer(),
            'ofx' => new OfxWriter(),
            'csv' => new CsvStatementWriter(),
            default => throw Refused::because('format', 'Choose the format of the statement from the list.'),
        };
    }

    private function booked(Movement $m): Day
    {
        $n = crc32($m->number);
        if ('' === $m->check) {
            return $m->day->plusDays($n % 2);
        }

        return $m->day->plusDays($n % 100 < self::LATE_CHECKS ? 35 + ($n % 20) : self::CHECK_DAYS[$n % 5]);
    }

    private static function line(Movement $m, Day $booked): StatementLine
    {
        $check = '' !== $m->check;

        return new StatementLine(
            $booked,
            $booked,
            $m->amount,
            $check
                ? 'CHECK '.$m->check
                : trim(
                    implode(' ', \array_slice(array_unique([...$m->names, $m->amount < 0 ? $m->number : '']), 0, 2)),
                ),
            '',
            \sprintf('B%08X', crc32($m->number.$m->day->iso())),
            $check ? '' : $m->party,
            '',
            $m->check,
            false,
        );
    }

    /** @return list<StatementLine> fees at the end of months, interest at the end of quarters */
    private function ownLines(Day $from, Day $to): array
    {
        $lines = [];
        for ($day = $from->endOfMonth(); !$day->isAfter($to); $day = $day->plusDays(1)->endOfMonth()) {
            $month = substr($day->iso(), 0, 7);
            $lines[] = new StatementLine(
                $day,
                $day,
                self::FEE,
                'ACCOUNT SERVICE FEE '.$month,
                bankReference: 'FEE'.$month,
            );
            if (0 === $day->month % 3) {
                $lines[] = new StatementLine(
                    $day,
                    $day,
                    self::INTEREST,
                    'CREDIT INTEREST '.$month,
                    bankReference: 'INT'.$month,
                );
            }
        }

        return $lines;
    }

    /**
     * @param list<StatementLine> $lines
     *
     * @return list<StatementLine> what happens at banks: money that nobody knows, what was paid by card, and a line twice
     */
    private function oddLines(array $lines, Day $to): array
    {
        $odd = [
            new StatementLine($to, $to, self::UNKNOWN, 'TRANSFER 8841', bankReference: 'B0008841', party: 'K. Marlowe'),
        ];
        foreach (self::CARD as $n => [$amount, $text, $ago]) {
            $day = $to->plusDays(-$ago);
            $odd[] = new StatementLine(
                $day,
                $day,
                $amount,
                'CARD '.$text,
                bankReference: \sprintf('C%s%02d', str_replace('-', '', $to->iso()), $n),
            );
        }
        foreach (array_reverse($lines) as $l) {
            if ($l->amount < 0 && '' === $l->check) {
                $odd[] = new StatementLine(
                    $l->day,
                    $l->value,
                    $l->amount,
                    $l->text,
                    $l->reference,
                    $l->bankReference.'D',
                    $l->party,
                );
                break;
            }
        }

        return $odd;
    }

    /**
     * @param list<StatementLine> $lines
     *
     * @return list<StatementLine> the largest receipt came less what a bank on the way kept
     */
    private static function oneWrong(array $lines): array
    {
        $at = null;
        foreach ($lines as $k => $l) {
            if (
                $l->amount > 0
                && '' !== $l->party
                && 'B0008841' !== $l->bankReference
                && (null === $at || $l->amount > $lines[$at]->amount)
            ) {
                $at = $k;
            }
        }
        if (null !== $at) {
            $lines[$at] = new StatementLine(
                ...['amount' => $lines[$at]->amount - 1_500] + get_object_vars($lines[$at]),
            );
        }

        return array_values($lines);
    }
}
