<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\DBAL\Connection;

/** The columns of a list as a person wants them; nobody else's list changes with it. */
final readonly class ChosenColumns
{
    /** A list that a person may choose columns of, as its name stands in a form. */
    public const NAME = '/\A[a-z-]{2,30}\z/';

    public function __construct(private Connection $db)
    {
    }

    /** @return list<string>|null null when the person has not chosen any */
    public function of(Actor $actor, string $list): ?array
    {
        $kept = $this->db->fetchOne(
            'SELECT filters FROM remembered_filter WHERE user_id = ? AND company_id = ? AND list = ?',
            [$actor->userId, $actor->companyId, self::key($list)],
        );
        $columns = false === $kept ? null : json_decode((string) $kept, true);

        return \is_array($columns) ? array_values(array_filter($columns, is_string(...))) : null;
    }

    /** @param list<string> $columns empty takes the choice back */
    public function choose(Actor $actor, string $list, array $columns): void
    {
        $where = [$actor->userId, $actor->companyId, self::key($list)];
        if ([] === $columns) {
            $this->db->executeStatement(
                'DELETE FROM remembered_filter WHERE user_id = ? AND company_id = ? AND list = ?',
                $where,
            );

            return;
        }
        $this->db->executeStatement(
            <<<'SQL'
            INSERT INTO remembered_filter (user_id, company_id, list, filters)
            VALUES (?, ?, ?, ?)
            ON DUPLICATE KEY UPDATE filters = VALUES(filters)
            SQL
            ,
            [...$where, json_encode(\array_slice($columns, 0, 40), \JSON_THROW_ON_ERROR)],
        );
    }

    private static function key(string $list): string
    {
        return 'columns '.$list;
    }
}
