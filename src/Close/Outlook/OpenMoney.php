<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Outlook;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Payables\ProposalState;
use Nelbix\Core\Aging\AgingSum;
use Nelbix\Core\Aging\CashFlow;
use Nelbix\Core\Aging\DueNet;
use Nelbix\Core\Aging\Lateness;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** What open items are expected to bring and take: what customers owe when they are likely to pay, what vendors are owed when it is due. */
final readonly class OpenMoney
{
    public function __construct(private Connection $db, private Habits $habits)
    {
    }

    /**
     * @param array<int, Lateness> $habits as Habits::of() gives them
     * @param bool $each item by item; else what one customer owes for one day is one
     *
     * @return iterable<Expected>
     */
    public function customers(int $companyId, Day $today, array $habits, bool $each): iterable
    {
        $promises = $this->habits->promises($companyId, $today);
        foreach ($this->net($companyId, Side::Receivables, $each) as [$r, $amount]) {
            $party = (int) $r['party_id'];
            $own = $habits[$party] ?? $habits[0];
            $due = Day::of((string) $r['due_date']);
            $promised = $due->isAfter($today) ? null : $promises[$party] ?? null;
            $days = $own->after($due, $today, $promised);
            yield new Expected(
                new CashFlow(OutlookKind::Customers->value, $amount, $days['usual'], $days['early'], $days['late']),
                $each ? 'document' : 'party',
                (int) ($each ? $r['document_id'] : $party),
                (string) ($r['number'] ?? ''),
                (string) $r['name'],
                $due,
                match (true) {
                    null !== $promised => 'promised until '.$promised->long(),
                    isset($habits[$party]) => self::words($own),
                    default => 'as customers pay in all; too few payments of its own',
                },
            );
        }
    }

    private static function words(Lateness $of): string
    {
        $day = static fn (int $n): string => match (true) {
            0 === $n => 'on the day',
            default => abs($n).(1 === abs($n) ? ' day ' : ' days ').($n < 0 ? 'early' : 'late'),
        };

        return \sprintf(
            '%s, by %d payments',
            $of->early === $of->late ? $day($of->usual) : $day($of->early).' to '.$day($of->late),
            $of->payments,
        );
    }

    /** @return iterable<Expected> what no run takes, on its due day or when it is supposed to be paid */
    public function vendors(int $companyId, Day $today, WhatIf $whatIf, bool $each): iterable
    {
        foreach ($this->net($companyId, Side::Payables, $each) as [$r, $amount]) {
            $due = Day::of((string) $r['due_date']);
            $plain = Day::latest($today, $due);
            $day = $whatIf->due($plain);
            yield new Expected(
                new CashFlow(OutlookKind::Vendors->value, -$amount, $day),
                $each ? 'document' : 'party',
                (int) ($each ? $r['document_id'] : $r['party_id']),
                (string) ($r['number'] ?? ''),
                (string) $r['name'],
                $due,
                $due->isBefore($today) ? 'over its due date' : 'on its due date',
                $day->equals($plain) ? null : $plain,
            );
        }
    }

    /** @return iterable<array{array<string, mixed>, int}> rows with what is left after the party's credits and what open runs take */
    private function net(int $companyId, Side $side, bool $each): iterable
    {
        $rows = [];
        $due = [];
        $credit = $party = 0;
        $left = static function () use (&$rows, &$due, &$credit): iterable {
            foreach (DueNet::of($due, $credit) as $k => $amount) {
                if ($amount > 0) {
                    yield [$rows[$k], $amount];
                }
            }
            [$rows, $due, $credit] = [[], [], 0];
        };
        foreach ($this->open($companyId, $side, $each) as $r) {
            if ((int) $r['party_id'] !== $party) {
                yield from $left();
                $party = (int) $r['party_id'];
            }
            $credit -= (int) $r['credit'];
            if ((int) $r['owed'] > 0) {
                $rows[] = $r;
                $due[] = (int) $r['owed'];
            }
        }
        yield from $left();
    }

    /** @return \Traversable<int, array<string, mixed>> by party, the earliest due first */
    private function open(int $companyId, Side $side, bool $each): \Traversable
    {
        // what an open run takes of an item comes with the run
        $rest = 'i.open_base';
        $join = '';
        if (Side::Payables === $side) {
            $rest = '(i.open_base - ROUND(i.open_base * COALESCE(t.applied, 0) / i.open))';
            $running = ProposalState::unpaid();
            $join = <<<SQL
            LEFT JOIN (
                SELECT x.item_id, SUM(x.applied) AS applied
                FROM proposal r
                JOIN proposal_line x ON x.proposal_id = r.id AND x.is_in = 1 AND x.dropped = 0
                LEFT JOIN proposal_payment y ON y.proposal_id = r.id AND y.payment = x.payment
                WHERE r.company_id = :company AND r.state IN ($running) AND y.document_id IS NULL
                GROUP BY x.item_id
            ) t ON t.item_id = i.id
            SQL;
        }
        $what = $each
            ? "i.document_id, i.number, IF(i.open > 0, $rest, 0) AS owed, IF(i.open < 0, $rest, 0) AS credit"
            : "SUM(IF(i.open > 0, $rest, 0)) AS owed, SUM(IF(i.open < 0, $rest, 0)) AS credit";
        $group = $each ? '' : 'GROUP BY i.party_id, p.name, i.due_date';

        return $this->db->iterateAssociative(
            <<<SQL
            SELECT i.party_id, p.name, i.due_date, $what
            FROM open_item i
            JOIN party p ON p.id = i.party_id
            $join
            WHERE i.company_id = :company AND i.side = :side AND i.is_open = 1 AND i.open <> 0 AND i.kind NOT IN (:prepaid)
            $group
            ORDER BY i.party_id, i.due_date
            SQL
            ,
            [
                'company' => $companyId,
                'side' => $side->value,
                'prepaid' => AgingSum::kindsOf(AgingSum::PREPAYMENT, $side),
            ],
            ['prepaid' => ArrayParameterType::STRING],
        );
    }
}
