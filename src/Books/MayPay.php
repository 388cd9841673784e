<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Parties\PartyDetails;
use Nelbix\App\People\Releases;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;

/** Whether a vendor and its invoices may be paid: not while held, unapproved, or while a payment stop holds. */
final readonly class MayPay
{
    public function __construct(private Connection $db, private Releases $releases)
    {
    }

    /**
     * @param list<int> $parties who is paid
     * @param list<int> $items what is paid
     *
     * @throws Refused naming the first document or vendor that may not be paid, and what to do
     */
    public function check(array $parties, array $items, Day $on): void
    {
        $this->mayBeSettled($items);
        $this->mayBePaid($parties, $on);
    }

    /**
     * Whoever took a hold or a stop away that somebody else had set pays none of it on the same day, nor approves that it is paid.
     *
     * @param list<int> $items what is paid
     * @param list<int> $parties who is paid beside those whose items they are
     *
     * @throws Refused naming the first document or vendor
     */
    public function mayBePaidBy(Actor $actor, array $items, array $parties = []): void
    {
        $documents = [];
        foreach (array_chunk(array_values(array_unique($items)), 1000) as $ids) {
            $rows = $this->db->iterateNumeric(
                'SELECT d.id, d.number, i.party_id FROM open_item i JOIN document d ON d.id = i.document_id WHERE i.id IN (?)',
                [$ids],
                [ArrayParameterType::INTEGER],
            );
            foreach ($rows as [$id, $number, $party]) {
                $documents[(int) $id] = (string) $number;
                $parties[] = (int) $party;
            }
        }
        $document = $this->releases->keepsFromPaying($actor, Releases::DOCUMENT, array_keys($documents));
        $party = $this->releases->keepsFromPaying($actor, Releases::PARTY, $parties);
        if (null !== $document || null !== $party) {
            throw Refused::because(
                null === $document ? 'party' : 'items',
                \sprintf(
                    'You released %s today, which somebody else had stopped; somebody else pays it, or you do another day.',
                    null === $document
                        ? $this->db->fetchOne('SELECT name FROM party WHERE id = ?', [$party])
                        : $documents[$document],
                ),
            );
        }
    }

    /**
     * What is held, or awaits approval, is neither paid nor set off: an invoice of a vendor, and money that went out on account.
     *
     * @param list<int> $items
     *
     * @throws Refused naming the first document, and what to do
     */
    public function mayBeSettled(array $items): void
    {
        foreach (array_chunk(array_values(array_unique($items)), 1000) as $ids) {
            $bad = $this->db->fetchAssociative(
                <<<'SQL'
                SELECT i.number, d.held_reason, d.approval
                FROM open_item i
                JOIN document d ON d.id = i.document_id
                WHERE i.id IN (?) AND i.side = 'payables' AND (i.original > 0 OR d.kind IN ('payment', 'prepayment'))
                    AND (d.held_reason IS NOT NULL OR d.approval IN ('awaiting', 'refused'))
                ORDER BY i.id
                LIMIT 1
                SQL
                ,
                [$ids],
                [ArrayParameterType::INTEGER],
            );
            if (false !== $bad) {
                throw Refused::because('items', self::why($bad));
            }
        }
    }

    /** @param list<int> $parties */
    private function mayBePaid(array $parties, Day $on): void
    {
        $stop =
            [] === $parties
                ? false
                : $this->db->fetchAssociative(
                    'SELECT p.name, s.reason FROM party p JOIN party_stop s ON s.party_id = p.id '.
                        "WHERE p.id IN (:parties) AND s.what = 'payment' AND ".
                        PartyDetails::stopHolds().
                        ' ORDER BY p.id LIMIT 1',
                    ['parties' => array_values(array_unique($parties)), 'on' => $on->iso()],
                    ['parties' => ArrayParameterType::INTEGER],
                );
        if (false !== $stop) {
            throw Refused::because(
                'party',
                \sprintf(
                    'No payment to %s: %s. Take the stop away on its page first.',
                    $stop['name'],
                    rtrim((string) $stop['reason'], '.'),
                ),
            );
        }
    }

    /** @param array<string, mixed> $bad */
    private static function why(array $bad): string
    {
        return match (true) {
            null !== $bad['held_reason'] => \sprintf(
                '%s is held: %s. Release it first.',
                $bad['number'],
                rtrim((string) $bad['held_reason'], '.'),
            ),
            Approval::Refused->value === $bad['approval'] => \sprintf(
                'The approval of %s was refused; put it right or reverse it.',
                $bad['number'],
            ),
            default => \sprintf(
                '%s awaits approval; it can be paid or placed when somebody else has approved it.',
                $bad['number'],
            ),
        };
    }
}
