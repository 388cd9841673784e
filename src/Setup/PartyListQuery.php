<?php

declare(strict_types=1);

namespace Nelbix\App\Setup;

use Doctrine\DBAL\Connection;
use Nelbix\App\Parties\PartyDetails;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** Vendors or customers with what they have open, for their list. */
final readonly class PartyListQuery
{
    public function __construct(private Connection $db)
    {
    }

    /** @return list<array<string, mixed>> by code */
    public function of(int $companyId, Side $side, Day $day, string $text, ?int $limit = null): array
    {
        $like = addcslashes($text, '%_\\').'%';
        $filter =
            '' === $text
                ? ''
                : 'AND (p.code LIKE :like OR p.name LIKE :like OR p.name LIKE :word OR p.tax_number LIKE :like '.
                    'OR p.street LIKE :middle OR p.city LIKE :like)';

        $holds = PartyDetails::stopHolds(':day');

        return $this->db->fetchAllAssociative(
            <<<SQL
            SELECT p.id, p.code, p.name, p.city, p.retired, p.bank_confirmed,
                (SELECT GROUP_CONCAT(s.what ORDER BY s.what SEPARATOR ', ') FROM party_stop s
                 WHERE s.party_id = p.id AND $holds) AS stops,
                COALESCE(t.open, 0) AS open, COALESCE(t.overdue, 0) AS overdue, COALESCE(t.n, 0) AS n
            FROM party p
            LEFT JOIN (
                SELECT party_id, SUM(open_base) AS open, COUNT(*) AS n,
                    SUM(IF(open > 0 AND due_date < :day, open_base, 0)) AS overdue
                FROM open_item
                WHERE company_id = :company AND side = :side AND open <> 0
                GROUP BY party_id
            ) t ON t.party_id = p.id
            WHERE p.company_id = :company AND p.side = :side $filter
            ORDER BY p.code

            SQL
            .(null === $limit ? '' : 'LIMIT '.$limit),
            [
                'company' => $companyId,
                'side' => $side->value,
                'day' => $day->iso(),
                ...'' === $text ? [] : ['like' => $like, 'word' => '% '.$like, 'middle' => '%'.$like],
            ],
        );
    }

    /** @return list<array<string, mixed>> the last few that were posted with a party, newest first */
    public function lastDocuments(int $companyId, int $partyId): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT id, number, their_number, kind, state, document_date, total, currency
            FROM document
            WHERE company_id = ? AND party_id = ? AND state <> 'draft'
            ORDER BY id DESC
            LIMIT 12
            SQL
            ,
            [$companyId, $partyId],
        );
    }
}
