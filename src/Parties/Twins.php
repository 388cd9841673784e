<?php

declare(strict_types=1);

namespace Nelbix\App\Parties;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Ledger\Side;

/** Parties that may be the same business entered twice: same tax number, same bank account, or a name that is nearly equal. */
final readonly class Twins
{
    public function __construct(private Connection $db)
    {
    }

    /** @return list<array{id: int, code: string, name: string, why: string}> at most five */
    public function of(
        int $companyId,
        Side $side,
        string $name,
        string $taxNumber,
        string $iban,
        string $routing,
        string $account,
        ?int $exceptId,
    ): array {
        $plain = static fn (string $text): string => strtolower((string) preg_replace('/[^\p{L}\p{N}]/u', '', $text));
        $key = self::key($name);
        $found = [];
        foreach (
            $this->db->iterateAssociative(
                <<<'SQL'
                SELECT id, code, name, tax_number, iban, routing_number, account_number
                FROM party
                WHERE company_id = ? AND side = ? AND retired = 0 AND id <> ?
                ORDER BY code
                SQL
                ,
                [$companyId, $side->value, $exceptId ?? 0],
            ) as $r
        ) {
            $why = match (true) {
                '' !== $plain($taxNumber) && $plain($taxNumber) === $plain((string) $r['tax_number']) => 'same tax number',
                '' !== $plain($iban) && $plain($iban) === $plain((string) $r['iban']),
                '' !== $plain($account)
                    && $plain($routing.$account) === $plain($r['routing_number'].$r['account_number']) => 'same bank account',
                self::near($key, self::key((string) $r['name'])) => 'name nearly equal',
                default => null,
            };
            if (null !== $why) {
                $found[] = [
                    'id' => (int) $r['id'],
                    'code' => (string) $r['code'],
                    'name' => (string) $r['name'],
                    'why' => $why,
                ];
            }
            if (\count($found) > 4) {
                break;
            }
        }

        return $found;
    }

    /** What is left of a name without legal forms, joining words, accents and punctuation. */
    public static function key(string $name): string
    {
        $plain = strtolower((string) \Transliterator::create('Any-Latin; Latin-ASCII')?->transliterate($name));
        $words = array_diff(preg_split('/[^a-z0-9]+/', $plain, -1, \PREG_SPLIT_NO_EMPTY) ?: [], [
            'the',
            'and',
            'of',
            'co',
            'company',
            'inc',
            'ltd',
            'llc',
            'gmbh',
            'ag',
            'as',
            'aps',
            'sons',
            'daughters',
            'limited',
            'corp',
            'corporation',
        ]);

        return implode('', $words);
    }

    private static function near(string $a, string $b): bool
    {
        return '' !== $a
            && '' !== $b
            && ($a === $b
                || (min(\strlen($a), \strlen($b)) > 7 && abs(\strlen($a) - \strlen($b)) < 3 && levenshtein($a, $b) < 3));
    }
}
