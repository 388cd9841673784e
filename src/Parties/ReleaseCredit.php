<?php

declare(strict_types=1);

namespace Nelbix\App\Parties;

use Doctrine\DBAL\Connection;
use Nelbix\App\People\SomebodyElse;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/**
 * Somebody who approves lets a customer owe more than its limit, up to an amount and until a day. A later word stands for an earlier one.
 */
final readonly class ReleaseCredit
{
    private const MOST_DAYS = 90;

    public function __construct(
        private Transaction $transaction,
        private Connection $db,
        private SomebodyElse $somebodyElse,
        private BooksDay $booksDay,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @param int $amount what it may owe beyond its limit, base minor units; 0 takes an earlier release back
     *
     * @throws Refused without a reason, for a day that is past or far, or over the person's own limit
     */
    public function release(Actor $actor, int $partyId, int $amount, Day $until, string $reason): void
    {
        if ('' === trim($reason)) {
            throw Refused::because(
                'reason',
                'Say why more credit is given; the history keeps your words.',
                ProblemKind::Missing,
            );
        }
        if ($amount < 0) {
            throw Refused::because('amount', 'What it may owe beyond its limit is above zero, or nothing.');
        }
        $today = $this->booksDay->of($actor->companyId);
        if ($until->isBefore($today) || $today->daysUntil($until) > self::MOST_DAYS) {
            throw Refused::because(
                'until',
                \sprintf('Credit is released from today on, for at most %d days.', self::MOST_DAYS),
            );
        }
        $this->transaction->run(function () use ($actor, $partyId, $amount, $until, $reason): void {
            $party = $this->db->fetchAssociative(
                "SELECT credit_limit FROM party WHERE id = ? AND company_id = ? AND side = 'receivables' AND nobody = 0 FOR UPDATE",
                [$partyId, $actor->companyId],
            );
            if (false === $party) {
                throw Refused::because('', 'There is no such customer in this company.', ProblemKind::Unknown);
            }
            if (null === $party['credit_limit']) {
                throw Refused::because('amount', 'This customer has no credit limit; there is nothing to release.');
            }
            $this->somebodyElse->within($actor, $amount, 'The credit');
            $this->db->insert('credit_release', [
                'company_id' => $actor->companyId,
                'party_id' => $partyId,
                'amount' => $amount,
                'until_on' => $until->iso(),
                'reason' => mb_substr(trim($reason), 0, 255),
                'made_by_id' => $actor->userId,
                'made_at' => $this->clock->now()->format('Y-m-d H:i:s'),
            ]);
            $this->history->note(
                $actor,
                'party',
                $partyId,
                'credit released',
                \sprintf(
                    '%s beyond the limit until %s: %s',
                    Money::of($amount, $actor->baseCurrency)->decimal(),
                    $until->long(),
                    trim($reason),
                ),
            );
        });
    }

    /** @return array{amount: int, until: string, by: int}|null what holds on a day; null for nothing */
    public function holds(int $partyId, Day $day): ?array
    {
        $row = $this->db->fetchAssociative(
            'SELECT amount, until_on, made_by_id FROM credit_release WHERE party_id = ? ORDER BY id DESC LIMIT 1',
            [$partyId],
        );

        return false === $row || (int) $row['amount'] <= 0 || $row['until_on'] < $day->iso()
            ? null
            : [
                'amount' => (int) $row['amount'],
                'until' => (string) $row['until_on'],
                'by' => (int) $row['made_by_id'],
            ];
    }
}
