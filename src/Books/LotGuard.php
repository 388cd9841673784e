<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/**
 * What came with a file that is not taken over whole yet stays as it is until all of it is there, or is taken back with it. The items of
 * documents are reserved by their lot beside that, as by a proposal.
 */
final readonly class LotGuard
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * @param list<int> $ids of records, locked before
     * @param string $what one of them, for the message
     *
     * @throws Refused while one of them waits for the rest of its file
     */
    public function mustBeThrough(LotOf $of, array $ids, string $what): void
    {
        $lot =
            [] === $ids
                ? false
                : $this->db->fetchOne(
                    LotOf::Documents === $of
                        ? <<<'SQL'
                        SELECT l.id
                        FROM document d
                        JOIN posting_lot l ON l.id = d.lot_id AND l.ended_at IS NULL
                        WHERE d.id IN (:ids)
                        LIMIT 1
                        SQL

                        : <<<'SQL'
                        SELECT l.id
                        FROM posting_lot_record r
                        JOIN posting_lot l ON l.id = r.lot_id AND l.holds = :of AND l.ended_at IS NULL
                        WHERE r.record_id IN (:ids) AND r.taken_back = 0
                        LIMIT 1
                        SQL
                    ,
                    ['ids' => $ids, 'of' => $of->value],
                    ['ids' => ArrayParameterType::INTEGER],
                );
        if (false !== $lot) {
            throw Refused::because('', Reservation::ofLot((int) $lot)->refusal($what), ProblemKind::Taken);
        }
    }
}
