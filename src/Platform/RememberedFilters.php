<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\DBAL\Connection;
use Symfony\Component\HttpFoundation\Request;

/** The filters of a list as a person left them: what the address says is kept, an address without any gets them back. */
final readonly class RememberedFilters
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * @param list<string> $keys the filters of the list
     *
     * @return array<string, string> all keys, '' for none
     */
    public function of(Desk $desk, Request $request, string $list, array $keys): array
    {
        $empty = array_fill_keys($keys, '');
        $asked = array_intersect_key($request->query->all(), $empty);
        $where = [$desk->actor->userId, $desk->id(), $list];
        if ('1' === $request->query->get('clear')) {
            $this->db->executeStatement(
                'DELETE FROM remembered_filter WHERE user_id = ? AND company_id = ? AND list = ?',
                $where,
            );

            return $empty;
        }
        if ([] === $asked) {
            $kept = json_decode(
                (string) $this->db->fetchOne(
                    'SELECT filters FROM remembered_filter WHERE user_id = ? AND company_id = ? AND list = ?',
                    $where,
                ),
                true,
            );

            return [
                ...$empty,
                ...array_intersect_key(\is_array($kept) ? array_filter($kept, is_string(...)) : [], $empty),
            ];
        }
        $filters = [
            ...$empty,
            ...array_map(static fn (mixed $v): string => \is_string($v) ? mb_substr(trim($v), 0, 80) : '', $asked),
        ];
        // a past day is looked at once; a link that sets one filter is followed, not kept; the form sends them all
        if (\count($asked) === \count($keys) && !self::isExport($request)) {
            $this->db->executeStatement(
                <<<'SQL'
                INSERT INTO remembered_filter (user_id, company_id, list, filters)
                VALUES (?, ?, ?, ?)
                ON DUPLICATE KEY UPDATE filters =
                VALUES(filters)
                SQL
                ,
                [...$where, json_encode(array_diff_key($filters, ['as_of' => 1]), \JSON_THROW_ON_ERROR)],
            );
        }

        return $filters;
    }

    private static function isExport(Request $request): bool
    {
        return $request->query->has('format');
    }
}
