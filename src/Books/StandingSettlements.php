<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Refused;

/** The settlements in which a document's items stand with those of others. */
final readonly class StandingSettlements
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * What was set off against an account alone, written off or recovered, is settled too.
     *
     * @return list<array{id: int|string, numbers: string, transfer_id: int|string|null}> with what carries the document's money on
     */
    public function of(int $documentId): array
    {
        /** @var list<array{id: int|string, numbers: string, transfer_id: int|string|null}> */
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT s.id, COALESCE(GROUP_CONCAT(DISTINCT o.number ORDER BY o.id SEPARATOR ' and '), 'an account') AS numbers,
                MAX(w.id) AS transfer_id
            FROM settlement s
            LEFT JOIN document w ON w.id = s.document_id AND w.id <> :document AND w.kind IN (:transfers) AND w.reverses_id IS NULL
            JOIN settlement_line l ON l.settlement_id = s.id
            JOIN open_item i ON i.id = l.item_id
            JOIN settlement_line m ON m.settlement_id = s.id
            LEFT JOIN open_item o ON o.id = m.item_id AND o.document_id <> i.document_id
            WHERE i.document_id = :document AND s.undone_on IS NULL
            GROUP BY s.id
            ORDER BY s.id
            SQL
            ,
            ['document' => $documentId, 'transfers' => DocumentKind::settlingThemselves()],
            ['transfers' => ArrayParameterType::STRING],
        );
    }

    /** @throws Refused while another settlement stands on it, with the list of what to undo first */
    public function mustBeNone(Document $document): void
    {
        $standing = $this->of($document->id());
        if ([] !== $standing) {
            throw Refused::because(
                '',
                \sprintf(
                    '%s is settled with %s; undo %s first.',
                    $document->number,
                    implode(', ', array_unique(array_column($standing, 'numbers'))),
                    1 === \count($standing) ? 'that settlement' : 'those settlements',
                ),
            );
        }
    }
}
