<?php

declare(strict_types=1);

namespace Nelbix\App\Today;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Parties\PartyWords;
use Nelbix\App\Platform\WordIndex;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\OpenItems\StatementCheck;

/** What is found by a number however it is spelt, by words in any order, or by an amount; the newest first, all along indexes. */
final readonly class SearchQuery
{
    private const MOST = 30;

    public function __construct(private Connection $db, private PartyWords $parties, private WordIndex $words)
    {
    }

    /**
     * @param list<Side> $sides that the person sees
     *
     * @return list<array<string, mixed>> by our number, theirs, the words of their texts, or the amount
     */
    public function documents(int $companyId, array $sides, string $text, int $year): array
    {
        if ('' === $text || [] === $sides) {
            return [];
        }
        $key = StatementCheck::key($text);
        $theirs = '' === $key ? '' : self::like($key);
        $words = $this->words->find($companyId, 'document', $text, self::MOST);
        $minor = self::minor($text);
        $found = [
            ...$this->documentsWith('d.number LIKE ?', $companyId, $sides, self::like($text)),
            ...[] === ($numbers = self::numbers($text, $year))
                ? []
                : $this->documentsWith('d.number IN (?)', $companyId, $sides, $numbers),
            ...'' === $theirs ? [] : $this->documentsWith('d.their_key LIKE ?', $companyId, $sides, $theirs),
            ...[] === $words ? [] : $this->documentsWith('d.id IN (?)', $companyId, $sides, $words),
            ...null === $minor ? [] : $this->documentsWith('d.total = ?', $companyId, $sides, $minor),
        ];
        $found = array_values(array_column($found, null, 'id'));
        usort($found, static fn (array $a, array $b): int => (int) $b['id'] <=> (int) $a['id']);

        return \array_slice($found, 0, self::MOST);
    }

    /**
     * @param list<Side> $sides
     *
     * @return list<array<string, mixed>> by any part of code, name, tax number or address, words in any order; the code first
     */
    public function parties(int $companyId, array $sides, string $text): array
    {
        $ids = [];
        foreach ($sides as $side) {
            array_push($ids, ...$this->parties->find($companyId, $side, $text, 40));
        }

        return [] === $ids
            ? []
            : $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT id, side, code, name, city, tax_number
                FROM party
                WHERE id IN (:ids)
                ORDER BY code = :code DESC, code LIKE :begins DESC, last_used_at IS NULL, last_used_at DESC, name
                LIMIT 20
                SQL
                ,
                ['ids' => $ids, 'code' => $text, 'begins' => self::like($text)],
                ['ids' => ArrayParameterType::INTEGER],
            );
    }

    /**
     * @param list<'delivery'|'order'> $kinds that the person sees
     *
     * @return list<array<string, mixed>> deliveries by our number or that of their note, orders by their number
     */
    public function goods(int $companyId, array $kinds, string $text): array
    {
        return '' === $text || [] === $kinds
            ? []
            : $this->db->fetchAllAssociative(
                <<<'SQL'
                (SELECT 'delivery' AS kind, g.id, g.number, g.note_number, g.delivered_on AS day, g.amount, g.currency, p.name
                FROM delivery g
                JOIN party p ON p.id = g.party_id
                WHERE 'delivery' IN (:kinds) AND g.company_id = :company AND (g.number LIKE :like OR g.note_number LIKE :like)
                ORDER BY g.id DESC
                LIMIT 30)
                UNION ALL
                (SELECT 'order', o.id, o.number, IF(o.closed_on IS NULL, '', 'closed'), o.ordered_on, o.amount, o.currency, p.name
                FROM purchase_order o
                JOIN party p ON p.id = o.party_id
                WHERE 'order' IN (:kinds) AND o.company_id = :company AND (o.number LIKE :like OR o.number = :spelt)
                ORDER BY o.id DESC
                LIMIT 10)
                SQL
                ,
                [
                    'company' => $companyId,
                    'kinds' => $kinds,
                    'like' => self::like($text),
                    'spelt' => self::spelt($text),
                ],
                ['kinds' => ArrayParameterType::STRING],
            );
    }

    /** @return list<array<string, mixed>> checks by their number, what became of them, and the payment they were written for */
    public function checks(int $companyId, string $text): array
    {
        $number = (string) preg_replace('/\D+/', '', $text);

        return '' === $number || \strlen($number) > 12 || 1 === preg_match('/\p{L}/u', $text)
            ? []
            : $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT k.number, k.state, k.document_id, d.number AS payment, d.total, d.currency, d.posting_date, p.name,
                    b.id AS book_id, a.name AS bank
                FROM bank_account a
                JOIN check_book b ON b.bank_account_id = a.id
                JOIN bank_check k ON k.check_book_id = b.id AND k.number = ?
                LEFT JOIN document d ON d.id = k.document_id
                LEFT JOIN party p ON p.id = d.party_id
                WHERE a.company_id = ?
                ORDER BY k.id DESC
                LIMIT 10
                SQL
                ,
                [(int) $number, $companyId],
            );
    }

    /** @return list<array<string, mixed>> payment proposals and runs by their number */
    public function runs(int $companyId, string $text): array
    {
        return '' === $text
            ? []
            : $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT id, number, state, pay_date
                FROM proposal
                WHERE company_id = ? AND (number LIKE ? OR number = ?)
                ORDER BY id DESC
                LIMIT 10
                SQL
                ,
                [$companyId, self::like($text), self::spelt($text)],
            );
    }

    /** @return list<array<string, mixed>> journal entries by their number */
    public function entries(int $companyId, string $text): array
    {
        return '' === $text
            ? []
            : $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT number, posting_date, text
                FROM journal_entry
                WHERE company_id = ? AND (number LIKE ? OR number = ?)
                ORDER BY id DESC
                LIMIT 10
                SQL
                ,
                [$companyId, self::like($text), self::spelt($text)],
            );
    }

    /**
     * @param list<Side> $sides
     * @param string|int|list<string>|list<int> $value
     *
     * @return list<array<string, mixed>>
     */
    private function documentsWith(string $what, int $companyId, array $sides, string|int|array $value): array
    {
        $in = "'".implode("','", array_map(static fn (Side $s): string => $s->value, $sides))."'";
        $most = self::MOST;
        $type = match (true) {
            !\is_array($value) => \Doctrine\DBAL\ParameterType::STRING,
            \is_int($value[0]) => ArrayParameterType::INTEGER,
            default => ArrayParameterType::STRING,
        };

        return $this->db->fetchAllAssociative(
            <<<SQL
            SELECT d.id, d.side, d.kind, d.number, d.their_number, d.state, d.document_date, d.total, d.currency, p.name,
                COALESCE(NULLIF(d.description, ''), d.reference) AS says
            FROM document d
            LEFT JOIN party p ON p.id = d.party_id
            WHERE d.company_id = ? AND d.side IN ($in) AND $what
            ORDER BY d.id DESC
            LIMIT $most
            SQL
            ,
            [$companyId, $value],
            [1 => $type],
        );
    }

    /**
     * Our numbers that a typed one may be: "vi 26.00412" is VI-26-00412, and 412 is that of this year and the last, of every kind.
     *
     * @return list<string>
     */
    private static function numbers(string $text, int $year): array
    {
        $plain = (string) preg_replace('/[^\p{L}\p{N}]+/u', '', $text);
        if (1 === preg_match('/\A\d{1,5}\z/', $plain)) {
            $numbers = [];
            foreach (DocumentKind::cases() as $kind) {
                foreach (Side::cases() as $side) {
                    foreach ([$year, $year - 1] as $y) {
                        $numbers[] = \sprintf('%s-%02d-%05d', $kind->prefix($side), $y % 100, (int) $plain);
                    }
                }
            }

            return array_values(array_unique($numbers));
        }

        return '' === self::spelt($text) ? [] : [self::spelt($text)];
    }

    /** The number as we write it, of one in which only its dashes, blanks or zeros differ; '' for anything else. */
    private static function spelt(string $text): string
    {
        $plain = strtoupper((string) preg_replace('/[^\p{L}\p{N}]+/u', '', $text));

        return 1 === preg_match('/\A([A-Z]{2})(\d{2})(\d{1,7})\z/', $plain, $m)
            ? \sprintf('%s-%s-%05d', $m[1], $m[2], (int) $m[3])
            : '';
    }

    /** Minor units of an amount, with its two decimals or without them; null for anything else. */
    private static function minor(string $text): ?int
    {
        $plain = str_replace([',', ' ', '’', '\''], '', $text);

        return match (true) {
            1 === preg_match('/\A\d{1,12}\.\d\d\z/', $plain) => (int) str_replace('.', '', $plain),
            1 === preg_match('/\A\d{1,12}\z/', $plain) => 100 * (int) $plain,
            default => null,
        };
    }

    private static function like(string $text): string
    {
        return addcslashes($text, '%_\\').'%';
    }
}
