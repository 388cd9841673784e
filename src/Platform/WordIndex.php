<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;

/**
 * The words of records, to be found by their beginnings, or by any part of them, in any order; along an index, however many records
 * there are. Whoever writes a record puts its words here in the same transaction.
 */
final readonly class WordIndex
{
    /** Longer words are cut; nobody types more of one. */
    private const LENGTH = 24;

    /** Of a word's inside, less is not looked for: it would be in nearly every record. */
    private const LEAST = 2;

    private const AT_ONCE = 2000;

    public function __construct(private Connection $db)
    {
    }

    /** @return list<string> letters and digits in lower case, each word once */
    public static function words(string $text): array
    {
        $words = preg_split('/[^\p{L}\p{N}]+/u', mb_strtolower($text), -1, \PREG_SPLIT_NO_EMPTY) ?: [];

        return array_values(
            array_unique(array_map(static fn (string $w): string => mb_substr($w, 0, self::LENGTH), $words)),
        );
    }

    /**
     * @param string $subject what kind of record it is, up to 12 letters
     * @param array<int, string> $texts by id; the words of before are forgotten
     * @param bool $parts any part of a word finds it, not only its beginning
     */
    public function put(int $companyId, string $subject, array $texts, bool $parts = false, bool $known = true): void
    {
        if ($known && [] !== $texts) {
            $this->db->executeStatement(
                'DELETE FROM search_word WHERE subject = ? AND subject_id IN (?)',
                [$subject, array_keys($texts)],
                [1 => ArrayParameterType::INTEGER],
            );
        }
        $rows = [];
        foreach ($texts as $id => $text) {
            $words = self::words($text);
            foreach (
                $parts ? array_unique(array_merge(...array_map(self::ends(...), $words ?: ['']))) : $words as $word
            ) {
                array_push($rows, $companyId, $subject, $id, $word);
            }
        }
        foreach (array_chunk($rows, 4 * self::AT_ONCE) as $chunk) {
            $this->db->executeStatement(
                'INSERT IGNORE INTO search_word (company_id, subject, subject_id, word) VALUES '.
                    implode(', ', array_fill(0, intdiv(\count($chunk), 4), '(?, ?, ?, ?)')),
                $chunk,
            );
        }
    }

    /**
     * @return list<int> ids of those that have every word that was typed, the newest first
     */
    public function find(int $companyId, string $subject, string $text, int $most): array
    {
        $words = \array_slice(self::words($text), 0, 6);
        // the longest leaves the fewest
        usort($words, static fn (string $a, string $b): int => mb_strlen($b) <=> mb_strlen($a));
        if ([] === $words) {
            return [];
        }
        $like = static fn (string $word): string => addcslashes($word, '%_\\').'%';
        $and = str_repeat(
            ' AND EXISTS (SELECT 1 FROM search_word o WHERE o.subject = w.subject AND o.subject_id = w.subject_id AND o.word LIKE ?)',
            \count($words) - 1,
        );

        return array_map(
            'intval',
            $this->db->fetchFirstColumn(
                <<<SQL
                SELECT DISTINCT w.subject_id
                FROM search_word w
                WHERE w.company_id = ? AND w.subject = ? AND w.word LIKE ?$and
                ORDER BY w.subject_id DESC
                LIMIT $most
                SQL
                ,
                [$companyId, $subject, ...array_map($like, $words)],
            ),
        );
    }

    /** @return list<string> the word, and what is left of it after its first letters */
    private static function ends(string $word): array
    {
        $ends = [$word];
        for ($k = 1; $k <= mb_strlen($word) - self::LEAST; ++$k) {
            $ends[] = mb_substr($word, $k);
        }

        return $ends;
    }
}
