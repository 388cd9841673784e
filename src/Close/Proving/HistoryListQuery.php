<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Proving;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\HistoryPacks;
use Nelbix\App\Platform\Keyset;

/** The history of a company: who did what to which record, and when, from what to what. */
final readonly class HistoryListQuery
{
    public const PAGE = 200;

    public function __construct(private Connection $db, private HistoryPacks $packs)
    {
    }

    /** @return list<string> the kinds of record that the history knows */
    public function subjects(int $companyId): array
    {
        return array_map(
            'strval',
            $this->db->fetchFirstColumn(
                // from one to the next along the index, however many lines each has
                <<<'SQL'
                WITH RECURSIVE s AS (
                    SELECT MIN(subject) AS subject FROM history WHERE company_id = :company
                    UNION ALL
                    SELECT (SELECT MIN(h.subject) FROM history h WHERE h.company_id = :company AND h.subject > s.subject)
                    FROM s
                    WHERE s.subject IS NOT NULL
                )
                SELECT subject FROM s WHERE subject IS NOT NULL
                SQL
                ,
                ['company' => $companyId],
            ),
        );
    }

    /**
     * @param array{who: string, what: string, text: string, from: string, to: string} $asked days as ISO, empty for no bound
     *
     * @return array{rows: list<array<string, mixed>>, next: ?string} the newest first
     */
    public function page(int $companyId, array $asked, ?string $after, int $size = self::PAGE): array
    {
        $keyset = new Keyset(['h.id'], true);
        [$later, $place] = $keyset->after($after);
        $with = ['company' => $companyId];
        $where = '';
        foreach (
            [
                'who' => 'h.user_id IN (SELECT v.id FROM app_user v WHERE v.username = :who OR v.name = :who)',
                'what' => 'h.subject = :what',
                'from' => 'h.happened_at >= :from',
                'to' => 'h.happened_at < :to + INTERVAL 1 DAY',
            ] as $key => $sql
        ) {
            if ('' !== $asked[$key]) {
                $where .= ' AND '.$sql;
                $with[$key] = $asked[$key];
            }
        }
        if ('' !== $asked['text']) {
            $where .= <<<'SQL'
             AND (h.detail LIKE :text OR h.action LIKE :text OR (h.subject = 'document' AND h.subject_id IN (
                SELECT n.id FROM document n WHERE n.company_id = :company AND n.number = :number)))
            SQL;
            $with['text'] = '%'.addcslashes($asked['text'], '%_\\').'%';
            $with['number'] = $asked['text'];
        }
        [$keys, $most] = [$keyset->select(), $size + 1];
        [$rows, $next] = $keyset->page(
            $this->db->fetchAllAssociative(
                <<<SQL
                SELECT h.id, h.happened_at, h.subject, h.subject_id, h.action, h.detail, u.name AS `by`, d.number, d.side, p.name AS party,
                    p.side AS party_side, e.number AS entry, $keys
                FROM (
                    -- the page first, along its index, and then what its lines speak of
                    SELECT h.* FROM history h WHERE h.company_id = :company$where$later ORDER BY h.id DESC LIMIT $most
                ) h
                JOIN app_user u ON u.id = h.user_id
                LEFT JOIN document d ON h.subject = 'document' AND d.id = h.subject_id
                LEFT JOIN party p ON h.subject = 'party' AND p.id = h.subject_id
                LEFT JOIN journal_entry e ON h.subject = 'entry' AND e.id = h.subject_id
                ORDER BY h.id DESC
                SQL
                ,
                [...$with, ...$place],
            ),
            $size,
        );

        return ['rows' => $rows, 'next' => $next];
    }

    /** @return string|null the last day of what is packed, ISO; null when nothing is */
    public function packedThrough(int $companyId): ?string
    {
        return $this->packs->through($companyId);
    }

    /**
     * What is packed, a line each, the oldest first.
     *
     * @param array{who: string, what: string, text: string, from: string, to: string} $asked
     *
     * @return \Generator<list<string>> at, by, record, its id, action, detail
     */
    public function packed(int $companyId, array $asked): \Generator
    {
        $people = $this->db->fetchAllAssociativeIndexed('SELECT id, username, name FROM app_user');
        foreach ($this->packs->between($companyId, $asked['from'], $asked['to']) as $entry) {
            [, $subject, $id, $action, $detail, $user, $at] = $entry;
            $by = $people[(int) $user] ?? ['username' => '', 'name' => ''];
            $text = mb_strtolower($asked['text']);
            if (
                ('' === $asked['what'] || $asked['what'] === $subject)
                && ('' === $asked['who'] || \in_array($asked['who'], [$by['username'], $by['name']], true))
                && ('' === $text || str_contains(mb_strtolower($action.' '.$detail), $text))
            ) {
                yield [$at, (string) $by['name'], $subject, $id, $action, $detail];
            }
        }
    }

    /** @return array{n: int, chain: string}|null the head of the seal; null while nothing is sealed */
    public function seal(int $companyId): ?array
    {
        $head = $this->db->fetchAssociative(
            'SELECT n, LOWER(HEX(chain)) AS chain FROM seal_head WHERE company_id = ?',
            [$companyId],
        );

        return false === $head || 0 === (int) $head['n']
            ? null
            : ['n' => (int) $head['n'], 'chain' => (string) $head['chain']];
    }
}
