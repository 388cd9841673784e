<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Typography;

/** Sets with their state, and the rules and runs of one. */
final readonly class PairingQuery
{
    public function __construct(private Connection $db)
    {
    }

    /** @return list<array<string, mixed>> the sets that a company is a side of, with what was paired and what is over */
    public function sets(int $companyId): array
    {
        $standing = PairingResult::STANDING;

        return $this->db->fetchAllAssociative(
            <<<SQL
            SELECT s.id, s.name, s.currency, s.sister_key, s.retired, s.company_id, s.other_company_id, o.name AS other,
                COALESCE(p.paired, 0) AS paired, COALESCE(p.asked, 0) AS asked, COALESCE(p.differs, 0) AS differs,
                COALESCE(r.left_over, 0) AS left_over, COALESCE(r.right_over, 0) AS right_over,
                COALESCE(r.left_sum, 0) AS left_sum, COALESCE(r.right_sum, 0) AS right_sum,
                (SELECT MAX(u.ended_at) FROM pairing_run u WHERE u.set_id = s.id AND u.state = 'done') AS run_at
            FROM pairing_set s
            LEFT JOIN company o ON o.id = IF(s.company_id = :company, s.other_company_id, s.company_id)
            LEFT JOIN (
                SELECT set_id, SUM(state IN $standing) AS paired, SUM(state = 'asked') AS asked,
                    SUM(IF(state IN $standing AND entry_id IS NULL AND document_id IS NULL, difference, 0)) AS differs
                FROM pairing_pair
                WHERE state <> 'undone'
                GROUP BY set_id
            ) p ON p.set_id = s.id
            LEFT JOIN (
                SELECT set_id, SUM(side = 'left') AS left_over, SUM(side = 'right') AS right_over,
                    SUM(IF(side = 'left', amount, 0)) AS left_sum, SUM(IF(side = 'right', amount, 0)) AS right_sum
                FROM pairing_row
                WHERE pair_id IS NULL
                GROUP BY set_id
            ) r ON r.set_id = s.id
            WHERE :company IN (s.company_id, s.other_company_id)
            ORDER BY s.retired, s.sister_key IS NULL, s.name
            SQL
            ,
            ['company' => $companyId],
        );
    }

    /** @return list<array<string, mixed>> the rules in use, with what each took that stands */
    public function rules(int $setId): array
    {
        $rows = $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT r.id, r.place, r.clauses, r.switched_on, r.version, COALESCE(SUM(p.state <> 'undone'), 0) AS took,
                COALESCE(SUM(p.state = 'asked'), 0) AS asked
            FROM pairing_rule r
            LEFT JOIN pairing_pair p ON p.rule_id = r.id
            WHERE r.set_id = ? AND r.retired = 0
            GROUP BY r.id, r.place, r.clauses, r.switched_on, r.version
            ORDER BY r.place, r.id
            SQL
            ,
            [$setId],
        );

        return array_map(
            static fn (array $r): array => [...$r, 'clauses' => (array) json_decode((string) $r['clauses'], true)],
            $rows,
        );
    }

    /** @return list<array<string, mixed>> the latest first */
    public function runs(int $setId): array
    {
        $rows = $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT r.*, u.name AS by_name
            FROM pairing_run r
            JOIN app_user u ON u.id = r.started_by_id
            WHERE r.set_id = ?
            ORDER BY r.id DESC
            LIMIT 20
            SQL
            ,
            [$setId],
        );

        return array_map(
            static fn (array $r): array => [...$r, 'counts' => (array) json_decode((string) $r['counts'], true)],
            $rows,
        );
    }

    /** @return array<int, array{code: string, name: string}> companies by id */
    public function companies(): array
    {
        $companies = [];
        foreach ($this->db->fetchAllAssociative('SELECT id, code, name FROM company') as $c) {
            $companies[(int) $c['id']] = ['code' => (string) $c['code'], 'name' => (string) $c['name']];
        }

        return $companies;
    }

    /** The customer of a company that is linked with the vendor of a source, or is the source's own: whose balances may be set off. */
    public function setOff(Source $source): ?int
    {
        $customer = $this->db->fetchOne(
            "SELECT IF(side = 'receivables', id, linked_party_id) FROM party WHERE id = ? AND linked_party_id IS NOT NULL",
            [$source->partyId ?? 0],
        );

        return false === $customer || null === $customer ? null : (int) $customer;
    }

    /** What the rows of a side are, in words. */
    public function sourceWords(Source $source): string
    {
        $company = $this->companies()[$source->companyId]['name'] ?? '';
        $of = match ($source->kind) {
            'account' => 'account '.
                $this->db->fetchOne('SELECT CONCAT(number, \' \', name) FROM account WHERE id = ?', [$source->id]),
            'bank' => (string) $this->db->fetchOne('SELECT name FROM bank_account WHERE id = ?', [$source->id]),
            'file' => (string) $this->db->fetchOne('SELECT name FROM stored_file WHERE id = ?', [$source->id]),
            default => ($source->side->value ?? '').
                (null === $source->partyId
                    ? ''
                    : ' of '.$this->db->fetchOne('SELECT name FROM party WHERE id = ?', [$source->partyId])),
        };

        return \sprintf(
            '%s, %s%s',
            $company,
            'file' === $source->kind ? 'file ' : ('items' === $source->kind ? 'open ' : ''),
            $of,
        );
    }

    /** An amount, or nothing of it for somebody who does not see the other company's. */
    public static function amount(int $minor, string $currency, bool $seen): string
    {
        return $seen ? Typography::amount($minor, $currency) : '•••';
    }
}
