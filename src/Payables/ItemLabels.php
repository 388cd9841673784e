<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;

/** What a list of items to pay shows beside the computed: whose they are and the number the vendor gave. */
final readonly class ItemLabels
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * @param list<int> $itemIds
     *
     * @return array<int, array{their_number: string, name: string, document_id: int}> by id of the item
     */
    public function of(int $companyId, array $itemIds): array
    {
        if ([] === $itemIds) {
            return [];
        }

        /** @var array<int, array{their_number: string, name: string, document_id: int}> */
        return $this->db->fetchAllAssociativeIndexed(
            <<<'SQL'
            SELECT i.id, d.their_number, p.name, d.id AS document_id
            FROM open_item i
            JOIN document d ON d.id = i.document_id
            JOIN party p ON p.id = i.party_id
            WHERE i.company_id = ? AND i.id IN (?)
            SQL
            ,
            [$companyId, $itemIds],
            [1 => ArrayParameterType::INTEGER],
        );
    }
}
