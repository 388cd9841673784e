<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Invoices\KeepDraft;
use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\Routing\RouterInterface;

/** Every route of a company, with records that fill its address. */
trait EveryRoute
{
    /** @return iterable<array{string, 'GET'|'POST', Side, string, bool}> name, method, side, path, whether it names a record */
    private static function doorsOf(?object $router): iterable
    {
        \assert($router instanceof RouterInterface);
        foreach ($router->getRouteCollection() as $name => $route) {
            $path = $route->getPath();
            if (!str_contains($path, '{company}')) {
                continue;
            }
            $both = str_contains($path, '{side}') && 'receivables' !== $route->getRequirement('side');
            foreach ($both ? Side::cases() : [Side::Receivables] as $side) {
                foreach (array_intersect(['GET', 'POST'], $route->getMethods()) as $method) {
                    $record =
                        1 === preg_match('/\{(id|bank|line|book|note|document|settlement|number|presence)\}/', $path);
                    yield [(string) $name, $method, $side, $path, $record];
                }
            }
        }
    }

    /** @param array<string, int|string> $ids */
    private function fill(string $path, string $company, Side $side, array $ids): string
    {
        $record = match (true) {
            str_contains($path, '/not-invoiced/slip/') => 'goods_slip',
            str_contains($path, '/not-invoiced/back/') => 'delivery',
            str_contains($path, '/not-invoiced/party/') => 'party_payables',
            // a match is one of a vendor's invoice
            str_ends_with($path, '/document/{id}/match') => 'payables',
            str_contains($path, '/document/'), str_contains($path, '/like/') => $side->value,
            str_contains($path, '/item/') => 'item_'.$side->value,
            str_contains($path, '/draft/') => 'draft_'.$side->value,
            str_contains($path, '/statements/') => 'party_receivables',
            str_contains($path, '/contra/') => 'party_receivables',
            str_contains($path, '/party/') => 'party_'.$side->value,
            str_contains($path, '/deliveries/') => 'delivery',
            str_contains($path, '/paper/') => 'paper',
            str_contains($path, '/batches/') => 'batch',
            str_contains($path, '/recurring/') => 'recurring',
            str_contains($path, '/outbox/') => 'outbox',
            str_contains($path, '/proposal/') => 'proposal',
            str_contains($path, '/orders/') => 'purchase_order',
            str_contains($path, '/on-hand/') => 'deposit_slip',
            str_contains($path, '/receipt-batches/') => 'receipt_batch',
            str_contains($path, '/debits/') => 'bank_file',
            str_contains($path, '/mandate/') => 'mandate',
            str_contains($path, '/prepayments/') => 'prepayment_request',
            str_contains($path, '/bank/files/') => 'bank_file',
            str_contains($path, '/bank/line/') => 'statement_line',
            str_contains($path, '/pairing/') => 'pairing_set',
            str_contains($path, '/bank/rules/') => 'reading_rule',
            str_contains($path, '/reconcile/') => 'reconciliation',
            str_contains($path, '/statement/{id}') => 'bank_statement',
            str_contains($path, '/import/file/') => 'import',
            str_contains($path, '/import/lot/') => 'posting_lot',
            str_contains($path, '/long-work/') => 'job',
            str_contains($path, '/close/account/') => 'account',
            str_contains($path, '/close/party/') => 'party_payables',
            str_contains($path, '/close/report/') => 'period',
            str_contains($path, '/sign-off/') => 'sign_off',
            str_contains($path, '/year-end/') => 'year_end',
            str_contains($path, '/journal/reverse/') => 'account',
            str_contains($path, '/journal/') => 'manual_entry',
            str_contains($path, '/revaluation/') => 'revaluation',
            str_contains($path, '/setup/terms/') => 'term',
            str_contains($path, '/people/substitute/') => 'substitute',
            str_contains($path, '/people/') => 'person',
            default => 'account',
        };

        return strtr($path, [
            '{company}' => $company,
            '{side}' => $side->value,
            '{id}' => (string) $ids[$record],
            '{document}' => (string) $ids[$side->value],
            '{book}' => (string) $ids['book'],
            '{bank}' => (string) $ids['bank'],
            '{line}' => (string) $ids['statement_line'],
            '{rule}' => '1',
            '{note}' => (string) $ids['note'],
            '{settlement}' => (string) $ids['settlement'],
            '{number}' => (string) $ids['number'],
            '{presence}' => (string) $ids['presence'],
            '{payment}' => '1',
            '{item}' => (string) $ids['item'],
            '{paper}' => '1',
            '{page}' => '1',
            '{file}' => (string) $ids['paper'],
            '{kind}' => 'accounts',
            '{mode}' => Side::Payables === $side ? 'payment' : 'receipt',
            '{what}' => str_contains($path, '/journal/') ? 'account' : 'party',
            '{action}' => 'prepayment',
            '{which}' => 'overdue',
        ]);
    }

    /** @return array<string, int|string> a record of each kind, in a company that nobody of this one works in */
    private function ofAnother(): array
    {
        $clerk = $this->clerk;
        $this->makeCompany('OTHER');
        $id = $this->clerk->companyId;
        $user = $this->clerk->userId;
        $ids = ['company' => $id];
        foreach (Side::cases() as $side) {
            $ids[$side->value] = $this->invoice($side, '100.00', ['document_date' => '2026-04-01', 'terms' => 'N30']);
            $ids['item_'.$side->value] = $this->itemOf($ids[$side->value]);
            $ids['draft_'.$side->value] = self::get(KeepDraft::class)
                ->keep($this->clerk, $side, ['party' => Side::Payables === $side ? 'V-1' : 'C-1'])
                ->id();
            $ids['party_'.$side->value] = (int) $this->db()->fetchOne(
                'SELECT id FROM party WHERE company_id = ? AND side = ?',
                [$id, $side->value],
            );
        }
        $item = $this->itemOf($this->invoice(Side::Receivables, '40.00'));
        $this->money(Side::Receivables, 4000, [new PlacementRequest($item, 4000)]);
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = self::get(
            CriteriaReader::class,
        )->read($this->clerk, []);
        $ids['proposal'] = self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, $method);
        $ids['bank'] = $bank;
        $ids['item'] = $this->itemOf((int) $ids['payables']);
        $mode = (string) $this->db()->fetchOne('SELECT @@sql_mode');
        $this->db()->executeStatement("SET SESSION sql_mode = '', foreign_key_checks = 0");
        foreach (
            [
                'bank_statement' => 'company_id, bank_account_id, number, format, digest, from_day, to_day, opening, closing, gap, '.
                    "taken_by_id, taken_at) VALUES ($id, $bank, '1', 'hand', 'x', '2026-06-01', '2026-06-01', 0, 0, 0, $user, NOW()",
                'statement_line' => 'statement_id, company_id, bank_account_id, place, day, amount, waiting) VALUES '.
                    "(0, $id, $bank, 1, '2026-06-01', 100, 100",
                'pairing_set' => 'company_id, name, left_source, right_source, shared_fields, currency, turned, amount_within, '.
                    'hand_within, '.
                    'group_by_field, adjusts, shows_other, retired, created_by_id) VALUES '.
                    "($id, 'x', '{}', '{}', '[]', 'USD', 'none', 0, 0, '', 'left', 0, 0, $user",
                'reading_rule' => "company_id, place, name, words, parts) VALUES ($id, 1, 'x', 'x', '{}'",
                'reconciliation' => 'company_id, bank_account_id, as_of, frozen, signed_by_id, signed_at) VALUES '.
                    "($id, $bank, '2026-06-01', '{}', $user, NOW()",
                'sign_off' => 'company_id, account_id, as_of, normal_sign, ledger, items, explained_by, signed_by_id, signed_at) VALUES '.
                    "($id, 0, '2026-05-31', 1, 0, 0, '[]', $user, NOW()",
                'manual_entry' => 'company_id, state, day, text, form, amount, bypass, bypass_why, refused_why, every, weeks, made, '.
                    "created_by_id, created_at) VALUES ($id, 'draft', '2026-06-01', 'x', '{}', 0, 0, '', '', '', 1, 0, $user, NOW()",
                'year_end' => 'company_id, year, result, created_by_id, created_at, undone_why) VALUES '.
                    "($id, 2025, 0, $user, NOW(), ''",
                'revaluation' => 'company_id, as_of, rates, gain, digest, live, undone_why, created_by_id, created_at) VALUES '.
                    "($id, '2026-05-31', '{}', 0, '', 1, '', $user, NOW()",
                'delivery' => 'company_id, number, party_id, delivered_on, rate, created_at) VALUES '.
                    "($id, 'GR-OTHER', {$ids['party_payables']}, '2026-06-01', 1, NOW()",
                'goods_slip' => 'company_id, number, kind, party_id, moved_on, reason, amount_base, created_by_id, created_at) VALUES '.
                    "($id, 'GS-OTHER', 'returned', {$ids['party_payables']}, '2026-06-01', 'x', 0, $user, NOW()",
                'purchase_order' => 'company_id, number, party_id, ordered_on, currency, note, amount, worth, created_by_id, created_at) '.
                    "VALUES ($id, 'PO-OTHER', {$ids['party_payables']}, '2026-06-01', 'USD', '', 1, 1, $user, NOW()",
                'prepayment_request' => 'company_id, party_id, number, asked_on, pay_by, currency, amount, text, created_at) VALUES '.
                    "($id, {$ids['party_receivables']}, 'PQ-X', '2026-06-01', '2026-06-09', 'USD', 100, 'x', NOW()",
                'mandate' => 'company_id, party_id, reference, signed_on, scheme, iban, created_at) VALUES '.
                    "($id, {$ids['party_receivables']}, 'M-X', '2026-01-01', 'CORE', 'X', NOW()",
                'receipt_batch' => 'company_id, name, posting_date, bank_account_id, created_at) VALUES '.
                    "($id, 'x', '2026-06-01', $bank, NOW()",
                'deposit_slip' => 'company_id, bank_account_id, account_id, number, deposited_on, created_at) VALUES '.
                    "($id, $bank, 0, 'DS-X', '2026-06-01', NOW()",
                'bank_file' => "company_id, bank_account_id, number, format, pay_date) VALUES ($id, $bank, 'BF-X', 'ach', '2026-06-01'",
                'batch' => "company_id, side, name, posting_date, created_at) VALUES ($id, 'payables', 'other', NOW(), NOW()",
                'recurring' => 'company_id, side, name, form, every, first_on, created_at) VALUES '.
                    "($id, 'payables', 'rent', '{}', 'month', '2026-01-01', '2026-01-01'",
                'note' => "company_id, document_id, text, for_user_id, created_by_id) VALUES ($id, {$ids['payables']}, 'x', $user, $user",
                'outbox' => "company_id) VALUES ($id",
                'substitute' => 'company_id, absent_id, deputy_id, first_day, last_day, reason) VALUES '.
                    "($id, $user, $user, NOW(), NOW(), 'x'",
                'app_user' => "username, name, password_hash) VALUES ('theirs', 'Theirs', 'x'",
                'presence' => "user_id, begun_at, seen_at, confirmed, address, agent) VALUES (0, NOW(), NOW(), 1, '', ''",
                'posting_lot' => 'company_id, side, kind, name, file_id, taken_id, records, state, created_by_id, created_at) VALUES '.
                    "($id, 'payables', 'vendor-invoices', 'x', 0, 0, 9, 'under_way', $user, NOW()",
                'job' => "company_id, user_id, kind, state, created_at) VALUES ($id, $user, 'run', 'done', NOW()",
            ] as $table => $values
        ) {
            $this->db()->executeStatement("INSERT INTO $table ($values)");
            $ids[$table] = (int) $this->db()->lastInsertId();
        }
        foreach (['paper' => $ids['payables'], 'import' => 'NULL'] as $subject => $of) {
            $this->db()->executeStatement(
                <<<SQL
                INSERT INTO stored_file (company_id, subject, subject_id, name, media_type, content, created_by_id)
                VALUES ($id, '$subject', $of, 'x', 'text/csv', 'code,name', $user)
                SQL
                ,
            );
            $ids[$subject] = (int) $this->db()->lastInsertId();
        }
        $this->db()->executeStatement("SET SESSION sql_mode = '$mode', foreign_key_checks = 1");
        $one = fn (string $sql): int|string => $this->db()->fetchOne($sql, [$id]);
        $ids['settlement'] = $one('SELECT MAX(id) FROM settlement WHERE company_id = ?');
        $ids['number'] = $one('SELECT MAX(number) FROM document WHERE company_id = ?');
        $ids['account'] = $one('SELECT MAX(id) FROM account WHERE company_id = ?');
        $ids['term'] = $one('SELECT MAX(id) FROM payment_term WHERE company_id = ?');
        $ids['period'] = $one("SELECT id FROM period WHERE company_id = ? AND first_day = '2026-06-01'");
        $ids['member'] = $one("SELECT MAX(id) FROM membership WHERE company_id = ? AND role = 'approver'");
        $ids['book'] = $one(
            'SELECT MAX(c.id) FROM check_book c JOIN bank_account b ON b.id = c.bank_account_id WHERE b.company_id = ?',
        );
        $this->db()->executeStatement('DELETE FROM membership WHERE company_id = ?', [$id]);
        $ids['member'] = 0;
        $ids['person'] = $ids['app_user'] ?? 0;
        self::get(EntityManagerInterface::class)->clear();
        $this->clerk = $clerk;

        return $ids;
    }
}
