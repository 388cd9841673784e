<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\Connection;
use Doctrine\DBAL\ParameterType;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Placement\SumSearch;
use Nelbix\Core\Refused;
use Symfony\Component\DependencyInjection\Attribute\AutowireIterator;

/** Finds a party by what is open with it, where its name is not known: from the text of a payment, or from its amount. */
final readonly class WhoOwes
{
    /** A sum is sought among so many items of a party, of so many parties, and has so many of them. Source: rules.md, Proposing. */
    private const MOST_ITEMS = 20;
    private const MOST_PARTIES = 1_000;
    private const MOST_IN_SUM = 8;

    /** @param iterable<NamesPayer> $areas */
    public function __construct(
        private Connection $db,
        #[AutowireIterator(NamesPayer::class)] private iterable $areas,
    ) {
    }

    /**
     * Those who have an open document whose number begins so; or the one that has an open item of just this amount, owes just this
     * amount altogether, or has items that add up to it, when there is only one.
     *
     * @return list<array{code: string, name: string, amount?: string}> with the amount that it was found by
     */
    public function find(int $companyId, Side $side, string $q): array
    {
        if (1 !== preg_match('/\d{3}/', $q)) {
            return [];
        }
        $found = $this->byNumber($companyId, $side, $q);
        if ([] !== $found) {
            return $found;
        }
        $owing = [];
        $typed = '';
        foreach ($this->currencies($companyId, $side) as $code) {
            try {
                $amount = AmountInput::read($q, Currency::of($code));
            } catch (Refused) {
                continue;
            }
            if ($amount->minor > 0) {
                $of = $this->owing($companyId, $side, $code, $amount->minor);
                $typed = [] === $of ? $typed : $amount->decimal();
                array_push($owing, ...$of);
            }
        }

        // whoever types an amount where a customer is asked says both
        return 1 === \count($owing) ? [[...$owing[0], 'amount' => $typed]] : [];
    }

    /** @return list<string> in which anything is open */
    private function currencies(int $companyId, Side $side): array
    {
        /** @var list<string> */
        return $this->db->fetchFirstColumn(
            'SELECT DISTINCT currency FROM open_item WHERE company_id = ? AND side = ? AND is_open = 1 ORDER BY currency LIMIT 12',
            [$companyId, $side->value],
        );
    }

    /** @return list<array{code: string, name: string}> two at most */
    private function owing(int $companyId, Side $side, string $currency, int $amount): array
    {
        return $this->ofOneItem($companyId, $side, $currency, $amount) ?:
            ($this->ofAllItems($companyId, $side, $currency, $amount) ?:
                $this->ofSomeItems($companyId, $side, $currency, $amount));
    }

    /** @return list<array{code: string, name: string}> by an open document, or by what the areas above know of */
    private function byNumber(int $companyId, Side $side, string $q): array
    {
        /** @var list<array{code: string, name: string}> $found */
        $found = $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT DISTINCT p.code, CONCAT(p.name, ', ', i.number) AS name
            FROM open_item i
            JOIN party p ON p.id = i.party_id
            WHERE i.company_id = ? AND i.side = ? AND i.is_open = 1 AND i.number LIKE ? AND p.retired = 0
            ORDER BY i.number
            LIMIT 12
            SQL
            ,
            [$companyId, $side->value, addcslashes($q, '%_\\').'%'],
        );
        foreach ($this->areas as $area) {
            $found = [...$found, ...$area->payersOf($companyId, $side, $q)];
        }

        return $found;
    }

    /** @return list<array{code: string, name: string}> two at most: that there is a second is enough to know */
    private function ofOneItem(int $companyId, Side $side, string $currency, int $amount): array
    {
        /** @var list<array{code: string, name: string}> */
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT p.code, CONCAT(p.name, ', ', MIN(i.number)) AS name
            FROM open_item i
            JOIN party p ON p.id = i.party_id
            WHERE i.company_id = ? AND i.side = ? AND i.open = ? AND i.currency = ? AND p.retired = 0
            GROUP BY p.id, p.code, p.name
            LIMIT 2
            SQL
            ,
            [$companyId, $side->value, $amount, $currency],
        );
    }

    /**
     * Those with a set of items, credits among them, that adds up to this amount.
     *
     * @return list<array{code: string, name: string}> two at most
     */
    private function ofSomeItems(int $companyId, Side $side, string $currency, int $amount): array
    {
        $rows = $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT p.code, p.name, i.currency, GROUP_CONCAT(i.open ORDER BY i.id) AS opens
            FROM open_item i
            JOIN party p ON p.id = i.party_id
            WHERE i.company_id = ? AND i.side = ? AND i.is_open = 1 AND i.currency = ? AND p.retired = 0
            GROUP BY p.id, p.code, p.name, i.currency
            HAVING COUNT(*) BETWEEN 3 AND ? AND SUM(GREATEST(i.open, 0)) > ?
            LIMIT ?
            SQL
            ,
            [$companyId, $side->value, $currency, self::MOST_ITEMS, $amount, self::MOST_PARTIES],
            [3 => ParameterType::INTEGER, 4 => ParameterType::INTEGER, 5 => ParameterType::INTEGER],
        );
        $found = [];
        foreach ($rows as $r) {
            $opens = array_map(intval(...), explode(',', (string) $r['opens']));
            if ([] !== SumSearch::masks($amount, $opens, self::MOST_IN_SUM)) {
                $found[(string) $r['code']] = [
                    'code' => (string) $r['code'],
                    'name' => $r['name'].', a sum of its items',
                ];
            }
            if (\count($found) > 1) {
                break;
            }
        }

        return array_values($found);
    }

    /**
     * Those who owe just this amount altogether, with their credits taken off or without.
     *
     * @return list<array{code: string, name: string}> two at most
     */
    private function ofAllItems(int $companyId, Side $side, string $currency, int $amount): array
    {
        /** @var list<array{code: string, name: string}> */
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT p.code, CONCAT(p.name, ', all of ', COUNT(*), ' items') AS name
            FROM open_item i
            JOIN party p ON p.id = i.party_id
            WHERE i.company_id = ? AND i.side = ? AND i.is_open = 1 AND i.currency = ? AND p.retired = 0
            GROUP BY p.id, p.code, p.name, i.currency
            HAVING SUM(i.open) = ? OR SUM(GREATEST(i.open, 0)) = ?
            LIMIT 2
            SQL
            ,
            [$companyId, $side->value, $currency, $amount, $amount],
        );
    }
}
