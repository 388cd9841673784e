<?php

declare(strict_types=1);

namespace Nelbix\App\Today;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Ledger\Side;

/** What is found by the beginning of a number, a code or a word, or by an amount; the newest first. */
final readonly class SearchQuery
{
    private const MOST = 30;

    public function __construct(private Connection $db)
    {
    }

    /**
     * @param list<Side> $sides that the person sees
     *
     * @return list<array<string, mixed>> by our number, theirs, or the amount
     */
    public function documents(int $companyId, array $sides, string $text): array
    {
        if ('' === $text || [] === $sides) {
            return [];
        }
        $like = self::like($text);
        // each by its own index
        $found = [
            ...$this->documentsWith('d.number LIKE ?', $companyId, $sides, $like),
            ...$this->documentsWith('d.their_number LIKE ?', $companyId, $sides, $like),
        ];
        if (1 === preg_match('/\A[\d,]+\.\d\d\z/', $text)) {
            $minor = (int) str_replace([',', '.'], '', $text);
            $found = [...$found, ...$this->documentsWith('d.total = ?', $companyId, $sides, $minor)];
        }
        $found = array_values(array_column($found, null, 'id'));
        usort($found, static fn (array $a, array $b): int => (int) $b['id'] <=> (int) $a['id']);

        return \array_slice($found, 0, self::MOST);
    }

    /**
     * @param list<Side> $sides
     *
     * @return list<array<string, mixed>> by code, the beginning of a word of the name, tax number or address
     */
    public function parties(int $companyId, array $sides, string $text): array
    {
        if ('' === $text || [] === $sides) {
            return [];
        }
        $in = self::in($sides);
        $like = self::like($text);

        return $this->db->fetchAllAssociative(
            <<<SQL
            SELECT id, side, code, name, city, tax_number
            FROM party
            WHERE company_id = ? AND side IN ($in) AND (code LIKE ? OR name LIKE ? OR name LIKE ? OR tax_number LIKE ?
                OR street LIKE ?)
            ORDER BY name
            LIMIT 20
            SQL
            ,
            [$companyId, $like, $like, '% '.$like, $like, $like],
        );
    }

    /** @return list<array<string, mixed>> by our number, or that of the delivery note */
    public function deliveries(int $companyId, string $text): array
    {
        return '' === $text
            ? []
            : $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT g.id, g.number, g.note_number, g.delivered_on, g.amount, g.currency, p.name
                FROM delivery g
                JOIN party p ON p.id = g.party_id
                WHERE g.company_id = ? AND (g.number LIKE ? OR g.note_number LIKE ?)
                ORDER BY g.id DESC
                LIMIT 30
                SQL
                ,
                [$companyId, self::like($text), self::like($text)],
            );
    }

    /**
     * @param list<Side> $sides
     *
     * @return list<array<string, mixed>>
     */
    private function documentsWith(string $what, int $companyId, array $sides, string|int $value): array
    {
        $in = self::in($sides);
        $most = self::MOST;

        return $this->db->fetchAllAssociative(
            <<<SQL
            SELECT d.id, d.side, d.kind, d.number, d.their_number, d.state, d.document_date, d.total, d.currency, p.name
            FROM document d
            LEFT JOIN party p ON p.id = d.party_id
            WHERE d.company_id = ? AND d.side IN ($in) AND $what
            ORDER BY d.id DESC
            LIMIT $most
            SQL
            ,
            [$companyId, $value],
        );
    }

    /** @param list<Side> $sides */
    private static function in(array $sides): string
    {
        return "'".implode("','", array_map(static fn (Side $s): string => $s->value, $sides))."'";
    }

    private static function like(string $text): string
    {
        return addcslashes($text, '%_\\').'%';
    }
}
