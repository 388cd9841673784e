<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\Core\OpenItems\StatementCheck;

/** What we hold of one vendor, to be compared with the vendor's own list. */
final readonly class StatementQuery
{
    public function __construct(private Connection $db)
    {
    }

    /** @return array<int, array<string, mixed>> open invoices and credits in one currency, by id of the item */
    public function open(int $companyId, int $partyId, string $currency): array
    {
        return $this->db->fetchAllAssociativeIndexed(
            <<<'SQL'
            SELECT i.id, i.number, d.their_number, i.document_date, i.due_date, i.open, d.id AS document_id
            FROM open_item i
            JOIN document d ON d.id = i.document_id
            WHERE i.company_id = ? AND i.side = 'payables' AND i.party_id = ? AND i.open <> 0 AND i.currency = ?
                AND i.kind IN ('invoice', 'credit_note', 'debit_note')
            ORDER BY i.document_date, i.id
            SQL
            ,
            [$companyId, $partyId, $currency],
        );
    }

    /**
     * The last document we have under each number, open or not: it may be paid, kept as a draft, or reversed.
     *
     * @param list<string> $numbers as the vendor writes them
     *
     * @return array<string, array<string, mixed>|null> by number; null for what never came
     */
    public function known(int $companyId, int $partyId, array $numbers): array
    {
        $keys = array_values(array_unique(array_map(StatementCheck::key(...), $numbers)));
        $found = [];
        foreach (
            [] === $keys
                ? []
                : $this->db->fetchAllAssociative(
                    <<<'SQL'
                    SELECT their_key, id, number, state, kind
                    FROM document
                    WHERE company_id = ? AND party_id = ? AND side = 'payables' AND their_key IN (?) AND reverses_id IS NULL
                    ORDER BY id
                    SQL
                    ,
                    [$companyId, $partyId, $keys],
                    [2 => ArrayParameterType::STRING],
                ) as $document
        ) {
            $found[(string) $document['their_key']] = $document;
        }
        $known = [];
        foreach ($numbers as $number) {
            $known[$number] = $found[StatementCheck::key($number)] ?? null;
        }

        return $known;
    }
}
