<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Bank\HandChecks;
use Nelbix\App\Books\MayPay;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;

/** What must hold before the payments of a run that are still to come are posted. */
final readonly class RunCheck
{
    private const LINES = <<<'SQL'
    FROM proposal r
    JOIN proposal_payment y ON y.proposal_id = r.id AND y.payment IN (:payments)
    JOIN proposal_line l ON l.proposal_id = r.id AND l.payment = y.payment AND l.is_in = 1 AND l.dropped = 0
    JOIN open_item i ON i.id = l.item_id
    SQL;

    private const TYPES = ['payments' => ArrayParameterType::INTEGER];

    public function __construct(private Connection $db, private HandChecks $handChecks, private MayPay $mayPay)
    {
    }

    /**
     * @param non-empty-list<int> $payments their numbers
     *
     * @throws Refused with the first thing that does not hold, and what to do about it
     */
    public function mayPost(Proposal $proposal, array $payments): void
    {
        $run = ['run' => $proposal->id, 'payments' => $payments];
        $this->itemsAsProposed($run);
        $this->mayGoOn($proposal, $payments);
        $this->paper($run, $proposal->bankAccountId);
    }

    /**
     * What could have changed since the posting was started: the items are reserved and the paper is printed, but somebody may hold a
     * document, stop a vendor or change where its money goes.
     *
     * @param non-empty-list<int> $payments their numbers
     *
     * @throws Refused
     */
    public function mayGoOn(Proposal $proposal, array $payments): void
    {
        $run = ['run' => $proposal->id, 'payments' => $payments];
        $this->mayBePaid($run, $proposal->payDate);
        $this->destinations($run);
    }

    /** @param array<string, mixed> $run */
    private function itemsAsProposed(array $run): void
    {
        $changed = $this->db->fetchOne(
            'SELECT i.number '.self::LINES.' WHERE r.id = :run AND i.open <> l.open LIMIT 1',
            $run,
            self::TYPES,
        );
        if (false !== $changed) {
            throw Refused::because(
                '',
                \sprintf(
                    '%s changed since the proposal was made; take its payment out of the run, and propose it again.',
                    $changed,
                ),
            );
        }
    }

    /**
     * An item that was held, or a vendor that was stopped, since the run was approved: who approved it did not know.
     *
     * @param array<string, mixed> $run
     */
    private function mayBePaid(array $run, Day $on): void
    {
        $rows = $this->db->fetchAllAssociative(
            'SELECT i.id, i.party_id '.self::LINES.' WHERE r.id = :run',
            $run,
            self::TYPES,
        );
        try {
            $this->mayPay->check(
                array_map('intval', array_column($rows, 'party_id')),
                array_map('intval', array_column($rows, 'id')),
                $on,
            );
        } catch (Refused $e) {
            throw Refused::because('', $e->getMessage().' No more of the run is posted until then.');
        }
    }

    /**
     * No money goes to an account that nobody confirmed, or to none.
     *
     * @param array<string, mixed> $run
     */
    private function destinations(array $run): void
    {
        $name = $this->db->fetchOne(
            'SELECT p.name '.
                self::LINES.
                <<<SQL

                JOIN party p ON p.id = y.party_id
                LEFT JOIN party_bank b ON b.id = y.party_bank_id
                WHERE r.id = :run AND y.pay_by = 'file' AND (IF(b.id IS NULL, p.bank_confirmed, b.confirmed) = 0
                    OR (b.id IS NULL AND p.iban = '' AND (p.routing_number = '' OR p.account_number = '')))
                LIMIT 1
                SQL
            ,
            $run,
            self::TYPES,
        );
        if (false !== $name) {
            throw Refused::because(
                '',
                \sprintf(
                    'The bank details of %s are missing or await a second person; have them confirmed, or pay another way.',
                    $name,
                ),
            );
        }
    }

    /**
     * Every check came out of the printer with its payment's amount; every one written by hand has a number of its own.
     *
     * @param array<string, mixed> $run
     */
    private function paper(array $run, int $bankAccountId): void
    {
        $numbers = [];
        foreach (
            $this->db->iterateAssociative(
                <<<SQL
                SELECT y.pay_by, y.reference, SUM(l.pay) AS amount, k.number, k.amount AS printed
                FROM proposal_payment y
                JOIN proposal_line l ON l.proposal_id = y.proposal_id AND l.payment = y.payment AND l.is_in = 1 AND l.dropped = 0
                LEFT JOIN bank_check k ON k.proposal_id = y.proposal_id AND k.payment = y.payment AND k.state = 'printed'
                WHERE y.proposal_id = :run AND y.payment IN (:payments) AND y.pay_by IN ('check', 'hand')
                GROUP BY y.payment, y.pay_by, y.reference, k.number, k.amount
                SQL
                ,
                $run,
                self::TYPES,
            ) as $r
        ) {
            if (PayBy::HandCheck->value === $r['pay_by']) {
                $numbers[] = (string) $r['reference'];
                continue;
            }
            if (null === $r['number']) {
                throw Refused::because(
                    '',
                    'Some checks have not come out of the printer yet; print them and say what came out first.',
                );
            }
            if ((int) $r['amount'] !== (int) $r['printed']) {
                throw Refused::because(
                    '',
                    \sprintf('Check %d was printed for another amount than its payment has now.', $r['number']),
                );
            }
        }
        if (\in_array('', $numbers, true)) {
            throw Refused::because(
                'reference',
                'A check written by hand has no number yet; type it beside its payment.',
            );
        }
        $this->handChecks->check($bankAccountId, $numbers);
    }
}
