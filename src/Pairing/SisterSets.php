<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Doctrine\DBAL\Connection;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Ledger\Side;

/**
 * The sets between sister companies, there out of the box: our payables to a company of this installation against its receivables from
 * us. They know each other by their tax numbers.
 */
final readonly class SisterSets
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private Connection $db,
    ) {
    }

    /** Makes those that are missing of a company, on whichever side it is. */
    public function ensure(Actor $actor): void
    {
        $missing = array_filter($this->neighbours($actor->companyId), static fn (array $n): bool => null === $n['set']);
        if ([] === $missing) {
            return;
        }
        $this->transaction->run(function () use ($actor, $missing): void {
            foreach ($missing as $n) {
                $this->make($actor, $n);
            }
        });
    }

    /**
     * Each vendor that is a company here, with the customer that we are there, by the currency of what they trade.
     *
     * @return list<array{debtor: int, creditor: int, vendor: int, customer: int, name: string, currency: string, key: string, set: ?int}>
     */
    private function neighbours(int $companyId): array
    {
        $rows = $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT v.company_id AS debtor, c.id AS creditor, v.id AS vendor, k.id AS customer, o.name AS debtor_name,
                c.name AS creditor_name, x.currency, s.id AS pairing
            FROM party v
            JOIN company o ON o.id = v.company_id
            JOIN company c ON c.tax_number = v.tax_number AND c.id <> v.company_id
            JOIN party k ON k.company_id = c.id AND k.side = 'receivables' AND k.tax_number = o.tax_number
            JOIN (SELECT DISTINCT party_id, currency FROM open_item) x ON x.party_id IN (v.id, k.id)
            LEFT JOIN pairing_set s ON s.sister_key = CONCAT(v.id, ' ', k.id, ' ', x.currency)
            WHERE v.side = 'payables' AND v.tax_number <> '' AND v.retired = 0 AND k.retired = 0 AND ? IN (v.company_id, c.id)
            GROUP BY v.company_id, c.id, v.id, k.id, o.name, c.name, x.currency, s.id
            SQL
            ,
            [$companyId],
        );

        return array_map(
            static fn (array $r): array => [
                'debtor' => (int) $r['debtor'],
                'creditor' => (int) $r['creditor'],
                'vendor' => (int) $r['vendor'],
                'customer' => (int) $r['customer'],
                'name' => mb_substr($r['debtor_name'].' owes '.$r['creditor_name'].', '.$r['currency'], 0, 120),
                'currency' => (string) $r['currency'],
                'key' => $r['vendor'].' '.$r['customer'].' '.$r['currency'],
                'set' => null === $r['pairing'] ? null : (int) $r['pairing'],
            ],
            $rows,
        );
    }

    /** @param array{debtor: int, creditor: int, vendor: int, customer: int, name: string, currency: string, key: string, set: ?int} $n */
    private function make(Actor $actor, array $n): void
    {
        $known = $this->db->fetchOne('SELECT id FROM pairing_set WHERE sister_key = ?', [$n['key']]);
        if (false !== $known) {
            return;
        }
        $set = new PairingSet(
            $n['debtor'],
            $n['name'],
            (new Source('items', $n['debtor'], Side::Payables, $n['vendor']))->raw(),
            (new Source('items', $n['creditor'], Side::Receivables, $n['customer']))->raw(),
            $n['currency'],
            $actor->userId,
        );
        $set->otherCompanyId = $n['creditor'];
        $set->sisterKey = $n['key'];
        // what the seller calls a document is its own number; what the buyer calls theirs
        $set->sharedFields = [['name' => 'their number', 'left' => 'their number', 'right' => 'number']];
        $set->groupByField = 'kind';
        $set->percentWithin = '1';
        $set->daysWithin = 5;
        $this->entities->persist($set);
        $this->entities->flush();
        $rule = static fn (array $more): array => [
            'left' => 'one',
            'right' => 'one',
            'agree' => ['their number'],
            'amount' => '0',
            'percent' => '',
            'days' => '',
            'sole' => true,
            'certain' => true,
            'left_sum' => '',
            'right_sum' => '',
            'filters' => [],
            'account' => '',
            'on' => 'left',
            ...$more,
        ];
        $rules = [
            $rule([]),
            $rule(['percent' => '1', 'certain' => false]),
            $rule(['agree' => [], 'days' => '10', 'certain' => false]),
        ];
        foreach ($rules as $k => $clauses) {
            $record = new PairingRuleRecord($set->id(), $k + 1, $clauses);
            $record->switchedOn = true;
            $this->entities->persist($record);
        }
        $this->entities->flush();
    }
}
