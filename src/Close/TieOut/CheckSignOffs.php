<?php

declare(strict_types=1);

namespace Nelbix\App\Close\TieOut;

use Doctrine\DBAL\Connection;

/** Whether what was signed off still stands as it was signed. */
final readonly class CheckSignOffs
{
    public function __construct(private Connection $db, private SignOffTieOut $signOff)
    {
    }

    /** @return list<string> findings */
    public function of(int $companyId): array
    {
        $found = [];
        foreach (
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT s.id, s.as_of, s.digest, s.items, a.number, COALESCE(SUM(i.base), 0) AS base
                FROM sign_off s
                JOIN account a ON a.id = s.account_id
                LEFT JOIN sign_off_item i ON i.sign_off_id = s.id
                WHERE s.company_id = ?
                GROUP BY s.id, s.as_of, s.digest, s.items, a.number
                SQL
                ,
                [$companyId],
            ) as $r
        ) {
            if ((int) $r['base'] !== (int) $r['items'] || $this->signOff->sum((int) $r['id']) !== $r['digest']) {
                $found[] = \sprintf('the sign-off of %s as of %s is not as it was signed', $r['number'], $r['as_of']);
            }
        }

        return $found;
    }
}
