<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\DBAL\Connection;
use Nelbix\App\Parties\PartyDetails;
use Nelbix\Core\Money\Money;

/** What changed underneath a proposal since it was made: somebody must have seen it before the run is approved. */
final readonly class Underneath
{
    public function __construct(private Connection $db)
    {
    }

    /** @return list<array{what: string, document_id: ?int, party_id: ?int, item_id: ?int}> in words, in a steady order */
    public function of(int $proposalId): array
    {
        $stands = <<<'SQL'
        EXISTS (SELECT 1 FROM proposal_line l WHERE l.proposal_id = y.proposal_id AND l.payment = y.payment AND l.is_in = 1
            AND l.dropped = 0)
        SQL;
        $stopHolds = PartyDetails::stopHolds('r.pay_date');
        $found = [];
        foreach (
            $this->db->fetchAllAssociative(
                <<<SQL
                SELECT i.number, i.open, i.currency, i.document_id, l.open AS proposed, d.held_reason, d.approval
                FROM proposal_line l
                JOIN open_item i ON i.id = l.item_id
                JOIN document d ON d.id = i.document_id
                WHERE l.proposal_id = ? AND l.is_in = 1 AND l.dropped = 0
                    AND (d.held_reason IS NOT NULL OR d.approval IN ('awaiting', 'refused') OR i.open <> l.open)
                ORDER BY i.id
                SQL
                ,
                [$proposalId],
            ) as $r
        ) {
            $amount = static fn (string $key): string => Money::of(
                abs((int) $r[$key]),
                (string) $r['currency'],
            )->decimal();
            $found[] = [
                'what' => match (true) {
                    null !== $r['held_reason'] => \sprintf('%s is held: %s', $r['number'], $r['held_reason']),
                    $r['open'] !== $r['proposed'] => \sprintf(
                        'Of %s %s is open now, %s when it was proposed',
                        $r['number'],
                        $amount('open'),
                        $amount('proposed'),
                    ),
                    default => $r['number'].' awaits approval again',
                },
                'document_id' => (int) $r['document_id'],
                'party_id' => null,
                'item_id' => null,
            ];
        }
        foreach (
            $this->db->fetchAllAssociative(
                <<<SQL
                SELECT DISTINCT 'stop' AS what, p.id, p.name, s.reason
                FROM proposal_payment y
                JOIN party p ON p.id = y.party_id
                JOIN party_stop s ON s.party_id = p.id AND s.what = 'payment'
                JOIN proposal r ON r.id = y.proposal_id
                WHERE y.proposal_id = :run AND $stopHolds AND $stands
                UNION ALL
                SELECT DISTINCT 'unconfirmed bank', p.id, p.name, ''
                FROM proposal_payment y
                JOIN party p ON p.id = y.party_id
                LEFT JOIN party_bank b ON b.id = y.party_bank_id
                WHERE y.proposal_id = :run AND y.pay_by = 'file' AND IF(b.id IS NULL, p.bank_confirmed, b.confirmed) = 0 AND $stands
                ORDER BY what, id
                SQL
                ,
                ['run' => $proposalId],
            ) as $r
        ) {
            $found[] = [
                'what' => 'stop' === $r['what']
                        ? \sprintf('No payment to %s by now: %s', $r['name'], $r['reason'])
                        : \sprintf(
                            'The bank details of %s changed; until a second person confirms them the run cannot be posted',
                            $r['name'],
                        ),
                'document_id' => null,
                'party_id' => (int) $r['id'],
                'item_id' => null,
            ];
        }
        foreach (
            $this->db->fetchAllAssociative(
                <<<SQL
                SELECT i.id, i.number, i.open, i.currency, i.document_id, p.name
                FROM proposal r
                JOIN open_item i ON i.company_id = r.company_id AND i.side = 'payables' AND i.open < 0 AND i.reserved_by_id IS NULL
                JOIN document d ON d.id = i.document_id AND d.posted_at > r.created_at
                JOIN party p ON p.id = i.party_id
                WHERE r.id = ? AND i.party_id IN (SELECT y.party_id FROM proposal_payment y WHERE y.proposal_id = r.id AND $stands)
                    AND NOT EXISTS (SELECT 1 FROM proposal_line l WHERE l.proposal_id = r.id AND l.item_id = i.id)
                ORDER BY i.id
                SQL
                ,
                [$proposalId],
            ) as $r
        ) {
            $found[] = [
                'what' => \sprintf(
                    '%s of %s is a new credit of %s',
                    $r['number'],
                    $r['name'],
                    Money::of(-(int) $r['open'], (string) $r['currency'])->decimal(),
                ),
                'document_id' => (int) $r['document_id'],
                'party_id' => null,
                'item_id' => (int) $r['id'],
            ];
        }

        return $found;
    }

    /**
     * What an acceptance stands for; empty when nothing changed.
     *
     * @param list<array{what: string, document_id: ?int, party_id: ?int, item_id: ?int}> $changes
     */
    public static function digest(array $changes): string
    {
        return [] === $changes ? '' : hash('sha256', implode("\n", array_column($changes, 'what')));
    }
}
