<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;

/** Who settled an item last, in words: for somebody whose page still shows it open. */
final readonly class WhoSettled
{
    public function __construct(private Connection $db)
    {
    }

    public function words(int $companyId, int $itemId): string
    {
        $last = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT i.number, u.name, d.number AS document, s.settled_on
            FROM open_item i
            LEFT JOIN settlement_line l ON l.item_id = i.id
            LEFT JOIN settlement s ON s.id = l.settlement_id AND s.undone_on IS NULL
            LEFT JOIN app_user u ON u.id = s.created_by_id
            LEFT JOIN document d ON d.id = s.document_id
            WHERE i.company_id = ? AND i.id = ?
            ORDER BY s.id DESC
            LIMIT 1
            SQL
            ,
            [$companyId, $itemId],
        );
        if (false === $last) {
            return 'An item of this page is not there any more; take its amount away.';
        }

        return null === $last['name']
            ? \sprintf('%s is not open here any more; take its amount away.', $last['number'])
            : \sprintf(
                '%s was settled by %s%s on %s; take its amount away, or undo that first.',
                $last['number'],
                $last['name'],
                null === $last['document'] ? '' : ' with '.$last['document'],
                Day::of((string) $last['settled_on'])->long(),
            );
    }
}
