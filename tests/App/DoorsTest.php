<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Invoices\KeepDraft;
use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\App\People\User;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\Routing\RouterInterface;

/**
 * Every route, by every role, with the records of another company: whoever lacks the permission is refused, whoever has it does not
 * find them, and nothing of theirs is changed. Who may what is written out here from product.md, Who uses it.
 */
final class DoorsTest extends ScreenCase
{
    private const ROLES = ['payables', 'receivables', 'receiver', 'buyer', 'approver', 'controller', 'auditor'];
    private const ALL = 'payables receivables receiver buyer approver controller auditor';
    private const WRITES_NOTES = 'payables receivables receiver buyer approver controller';
    private const SEES = [
        'payables' => 'payables buyer approver controller auditor',
        'receivables' => 'receivables approver controller auditor',
    ];
    private const ENTERS = ['payables' => 'payables controller', 'receivables' => 'receivables controller'];
    private const PAYS = 'payables controller';
    private const LEDGER = 'payables receivables approver controller auditor';
    private const JOURNAL = 'payables receivables controller';
    private const LINES = 'payables receivables controller';
    private const GOODS = 'payables receiver buyer approver controller auditor';
    private const ORDERS = 'buyer controller';
    private const RECORDS = 'receiver controller';
    private const SETUP = 'controller auditor';

    /** By route: who may, where it is not the same on both sides; "see" and "enter" by the side in the address. */
    private const MAY = [
        'today' => self::ALL,
        'search' => self::ALL,
        'single_keys' => self::ALL,
        'columns' => self::ALL,
        'work' => self::ALL,
        'work_progress' => self::ALL,
        'tasks' => self::ALL,
        'import' => 'payables receivables buyer receiver controller',
        // of vendors, as the form says
        'import_check' => 'payables controller',
        'import_take' => 'payables controller',
        'import_file' => self::ALL,
        // of a kind that one may take over: LotTest
        'import_lot' => self::ALL,
        'import_lot_go_on' => self::ALL,
        'import_lot_take_back' => self::ALL,
        'note_done' => self::WRITES_NOTES,
        'contra' => 'controller',
        'contra_post' => 'controller',
        'account_statements' => self::SEES['receivables'],
        'account_statement' => self::SEES['receivables'],
        'account_statements_pdf' => self::SEES['receivables'],
        'account_statements_send' => self::ENTERS['receivables'],
        'charges' => self::SEES['receivables'],
        'charges_post' => self::ENTERS['receivables'],
        'commissions' => self::SEES['receivables'],
        'reminders' => self::SEES['receivables'],
        'reminders_pdf' => self::SEES['receivables'],
        'reminders_send' => self::ENTERS['receivables'],
        'promise_keep' => self::ENTERS['receivables'],
        'pairs' => 'enter',
        'pairs_settle' => 'enter',
        'item_act' => 'enter',
        'item_act_entry' => 'enter',
        'item_act_do' => 'enter',
        'letter' => self::SEES['receivables'],
        'letter_send' => self::ENTERS['receivables'],
        'credit_release' => 'approver',
        'refund' => self::ENTERS['receivables'],
        'refund_entry' => self::ENTERS['receivables'],
        'refund_request' => self::ENTERS['receivables'],
        'prepayment_requests' => self::SEES['receivables'],
        'prepayment_ask' => self::ENTERS['receivables'],
        'prepayment_request_pdf' => self::SEES['receivables'],
        'prepayment_request_send' => self::ENTERS['receivables'],
        'prepayment_withdraw' => self::ENTERS['receivables'],
        'debits' => self::SEES['receivables'],
        'debits_collect' => self::ENTERS['receivables'],
        'debit_file' => self::SEES['receivables'],
        'debit_file_content' => self::ENTERS['receivables'],
        'debit_file_send' => self::ENTERS['receivables'],
        'debit_file_answer' => self::ENTERS['receivables'],
        'debit_file_notices' => self::SEES['receivables'],
        'mandate_sign' => self::ENTERS['receivables'],
        'mandate_end' => self::ENTERS['receivables'],
        'receipt_batches' => self::SEES['receivables'],
        'receipt_batch_begin' => self::ENTERS['receivables'],
        'receipt_batch' => self::SEES['receivables'],
        'receipt_batch_close' => self::ENTERS['receivables'],
        'open_list' => self::SEES['receivables'],
        'claims' => self::SEES['receivables'],
        'on_hand' => self::SEES['receivables'],
        'deposit_entry' => self::ENTERS['receivables'],
        'deposit_make' => self::ENTERS['receivables'],
        'deposit' => self::SEES['receivables'],
        'deposit_pdf' => self::SEES['receivables'],
        'deposit_undo' => self::ENTERS['receivables'],
        'written_off' => self::SEES['receivables'],
        'claim_decide' => 'approver',
        'note_write' => 'note',
        'party_note_write' => 'note',
        'bank' => self::LEDGER,
        'pairing' => self::LEDGER,
        'pairing_set' => self::LEDGER,
        'pairing_loom' => self::LEDGER,
        'pairing_journal' => self::LEDGER,
        'pairing_new' => self::LINES,
        'pairing_from_statement' => self::PAYS,
        'pairing_edit' => self::LINES,
        'pairing_add' => self::LINES,
        'pairing_save' => self::LINES,
        'pairing_run' => self::LINES,
        'pairing_stop' => self::LINES,
        'pairing_decide' => self::LINES,
        'pairing_hand' => self::LINES,
        'pairing_undo' => self::LINES,
        'pairing_undo_run' => self::LINES,
        'pairing_difference' => self::LINES,
        'pairing_mirror' => self::LINES,
        'pairing_rule_new' => self::LINES,
        'pairing_rule' => self::LINES,
        'pairing_rule_try' => self::LINES,
        'pairing_rule_add' => self::LINES,
        'pairing_rule_save' => self::LINES,
        'pairing_rule_change' => self::LINES,
        'statement_live' => self::LINES,
        'statement_place' => self::LINES,
        'line_search' => self::LINES,
        'statement_new' => self::LINES,
        'statement_file' => self::LINES,
        'statement_csv' => self::LINES,
        'statement_typed' => self::LINES,
        'statement_fetch' => self::LINES,
        'bank_line_place' => self::LINES,
        'bank_line_undo' => self::LINES,
        'rule_new' => self::LINES,
        'rule_try' => self::LINES,
        'rule_add' => self::LINES,
        'rule_save' => self::LINES,
        'rule_move' => self::LINES,
        'statement' => self::LEDGER,
        'statement_original' => self::LEDGER,
        'bank_line' => self::LEDGER,
        'rules' => self::LEDGER,
        'rule' => self::LEDGER,
        'reconcile' => self::LEDGER,
        'reconcile_report' => self::LEDGER,
        'reconcile_sign' => 'controller',
        'reconcile_withdraw' => 'controller',
        'stale_checks' => self::SEES['payables'],
        'journal' => self::LEDGER,
        'journal_new' => self::JOURNAL,
        'journal_live' => self::JOURNAL,
        'journal_pick' => self::JOURNAL,
        'journal_enter' => self::JOURNAL,
        'journal_one' => self::LEDGER,
        'journal_change' => self::JOURNAL,
        'journal_decide' => self::LEDGER,
        'journal_drop' => self::JOURNAL,
        'journal_prepare' => self::JOURNAL,
        'journal_reverse' => self::JOURNAL,
        'journal_paper_add' => self::JOURNAL,
        'journal_paper' => self::LEDGER,
        'year_end' => self::LEDGER,
        'year_end_post' => 'controller',
        'year_end_undo' => 'controller',
        'results' => self::LEDGER,
        'balances' => self::LEDGER,
        'party_card' => self::LEDGER,
        'entries' => self::LEDGER,
        'analysis' => self::LEDGER,
        'tax_report' => self::LEDGER,
        'withheld' => self::LEDGER,
        'audit_file' => self::SETUP,
        'history' => self::SETUP,
        'close_report' => self::LEDGER,
        'tie_out' => self::LEDGER,
        'outlook' => self::LEDGER,
        'rates' => self::LEDGER,
        'rates_save' => 'controller',
        'rates_file' => 'controller',
        'rates_feed' => 'controller',
        'revaluation' => self::LEDGER,
        'revaluation_post' => 'controller',
        'revaluation_undo' => 'controller',
        'gains' => self::LEDGER,
        'tie_out_day' => self::LEDGER,
        'tie_out_sign' => 'controller',
        'sign_off' => self::LEDGER,
        'trial_balance' => self::LEDGER,
        'account' => self::LEDGER,
        'entry' => self::LEDGER,
        'records' => self::LEDGER,
        'record' => self::LEDGER,
        'terms' => self::LEDGER,
        'term' => self::LEDGER,
        'term_sample' => self::LEDGER,
        'record_new' => 'controller',
        'record_save' => 'controller',
        'term_new' => 'controller',
        'term_save' => 'controller',
        'setup' => self::SETUP,
        'setup_save' => 'controller',
        'payment_returned' => 'approver',
        'take_over' => 'controller',
        'take_over_save' => 'controller',
        'first_steps' => 'controller',
        'company_save' => 'controller',
        'people' => self::SETUP,
        'person' => self::SETUP,
        'person_add' => 'controller',
        'person_change' => 'controller',
        'person_retire' => 'controller',
        'person_link' => 'controller',
        'person_second_factor' => 'controller',
        'substitute_begin' => 'controller',
        'substitute_end' => 'controller',
        'own' => self::ALL,
        'own_password' => self::ALL,
        'own_sign_out' => self::ALL,
        'own_sign_out_elsewhere' => self::ALL,
        'second_factor_offer' => self::ALL,
        'second_factor_begin' => self::ALL,
        'second_factor_end' => self::ALL,
        'periods_add' => 'controller',
        'period_lock' => 'controller',
        'close' => self::LEDGER,
        'number_gaps' => self::LEDGER,
        'deliveries' => self::GOODS,
        'delivery' => self::GOODS,
        'delivery_new' => self::RECORDS,
        'delivery_live' => self::RECORDS,
        'delivery_record' => self::RECORDS,
        'delivery_reverse' => self::RECORDS,
        'delivery_pick' => self::RECORDS,
        'not_invoiced' => self::GOODS,
        'received_clear' => 'controller',
        'goods_back' => self::RECORDS,
        'awaited' => self::SEES['payables'],
        'never_came' => 'controller',
        'goods_slip_undo' => 'controller',
        'invoice_request' => self::SEES['payables'],
        'invoice_request_send' => self::ENTERS['payables'],
        'delivery_paper_keep' => self::RECORDS,
        'delivery_paper' => self::GOODS,
        'orders' => self::GOODS,
        'order' => self::GOODS,
        'order_pdf' => self::GOODS,
        'order_new' => self::ORDERS,
        'order_live' => self::ORDERS,
        'order_enter' => self::ORDERS,
        'order_change' => self::ORDERS,
        'order_change_save' => self::ORDERS,
        'order_close' => self::ORDERS,
        'buy_at_once' => 'controller',
        'order_accept' => self::ORDERS,
        'order_pick' => self::ORDERS,
        'order_send' => self::ORDERS,
        'order_decide' => 'approver',
        'match_offer' => self::ENTERS['payables'],
        'match_decide' => 'buyer approver controller',
        'register' => self::SEES['payables'],
        'register_issued' => self::SEES['payables'],
        'bank_files' => self::SEES['payables'],
        'bank_file' => self::SEES['payables'],
        'proposals' => self::SEES['payables'],
        'proposal' => self::SEES['payables'],
        'proposal_new' => self::SEES['payables'],
        'proposal_payment' => self::SEES['payables'],
        'proposal_compare' => self::SEES['payables'],
        'due_list' => self::SEES['payables'],
        'statement_check' => self::SEES['payables'],
        'remittance' => self::SEES['payables'],
        'remittance_file' => self::SEES['payables'],
        'invoices_print' => self::SEES['receivables'],
        'invoice_list' => self::SEES['receivables'],
        'invoice_list_pdf' => self::SEES['receivables'],
        'invoices_send' => self::ENTERS['receivables'],
        'remittance_send' => self::PAYS,
        'register_skip' => self::PAYS,
        'register_align' => self::PAYS,
        'register_test' => self::PAYS,
        'register_void' => self::PAYS,
        'check_book_add' => self::PAYS,
        'printer_jam' => self::PAYS,
        'bank_file_content' => self::PAYS,
        'bank_file_make' => self::PAYS,
        'bank_file_send' => self::PAYS,
        'bank_file_answer' => self::PAYS,
        'proposal_checks' => self::PAYS,
        'payment_check' => self::PAYS,
        'payment_check_spoiled' => self::PAYS,
        'proposal_apart' => self::PAYS,
        'proposal_print' => self::PAYS,
        'proposal_printer' => self::PAYS,
        'proposal_printed' => self::PAYS,
        'proposal_post' => self::PAYS,
        'proposal_make' => self::PAYS,
        'proposal_items' => self::PAYS,
        'proposal_line' => self::PAYS,
        'proposal_payment_change' => self::PAYS,
        'proposal_take_out' => self::PAYS,
        'proposal_accept' => self::PAYS,
        'proposal_drop' => self::PAYS,
        'habit' => self::PAYS,
        'proposal_decide' => 'approver',
        'document_decide' => 'approver',
        'party_confirm' => 'approver',
        'aging' => 'see',
        'aging_items' => 'see',
        'figures' => 'see',
        'aging_view' => 'see',
        'batches' => 'see',
        'batch' => 'see',
        'batch_journal' => 'see',
        'documents' => 'see',
        'document' => 'see',
        'why' => 'see',
        'why_proposed' => self::SEES['payables'],
        'document_pdf' => 'see',
        'document_xml' => 'see',
        'items' => 'see',
        'paper_page' => 'see',
        'paper_original' => 'see',
        'recurring' => 'see',
        'outbox' => 'see',
        'outbox_message' => 'see',
        'parties' => 'see',
        'party' => 'see',
        'pick' => 'see',
    ];

    /** Routes whose address names no record, where it is not a page that opens just so. */
    private const ANSWERS = [
        'remittance' => 404,
        'match_offer' => 404,
        'split_fill' => 422,
        'account_statements_pdf' => 303,
        'reminders_pdf' => 303,
    ];

    public function testEveryDoor(): void
    {
        $ids = $this->ofAnother();
        $this->db()->executeStatement('DELETE FROM remembered_filter');
        $before = $this->fingerprint($ids['company']);
        $wrong = [];
        $opened = 0;
        foreach ($this->users() as $role => $user) {
            SignedIn::as($this->browser, $user);
            $token = (string) $this->browser
                ->request('GET', '/TEST')
                ->filter('input[name=_token]')
                ->last()
                ->attr('value');
            foreach (self::doorsOf(self::getContainer()->get('router')) as [$name, $method, $side, $path, $hasRecord]) {
                $may = \in_array($role, explode(' ', self::who($name, $side)), true);
                $own = $this->fill($path, 'TEST', $side, $ids);
                $status = $this->send($method, $own, $token, $ids);
                $what = "$role $method $name ($own)";
                if (!$may) {
                    $wrong = [...$wrong, ...403 === $status ? [] : ["$what: $status instead of 403"]];
                } elseif ($hasRecord) {
                    $wrong = [
                        ...$wrong,
                        ...$this->notFound($status) ? [] : ["$what: $status, it is another company’s"],
                    ];
                } elseif ('GET' === $method) {
                    $right = self::ANSWERS[$name] ?? 200;
                    $wrong = [...$wrong, ...$right === $status ? [] : ["$what: $status instead of $right"]];
                } else {
                    $wrong = [...$wrong, ...\in_array($status, [200, 303, 404, 422], true) ? [] : ["$what: $status"]];
                }
                // the other company itself is not there for somebody who does not work in it
                $theirs = $this->send($method, $this->fill($path, 'OTHER', $side, $ids), $token, $ids);
                $wrong = [...$wrong, ...404 === $theirs ? [] : ["$role $method $name of the other company: $theirs"]];
                ++$opened;
            }
        }
        self::assertSame([], $wrong);
        self::assertGreaterThan(900, $opened);
        self::assertSame($before, $this->fingerprint($ids['company']), 'nothing of the other company is changed');
    }

    /** A new route is not open before somebody has written here who may use it. */
    private static function who(string $route, Side $side): string
    {
        $may = self::MAY[$route] ?? 'enter';

        return match ($may) {
            'see' => self::SEES[$side->value],
            'enter' => self::ENTERS[$side->value],
            'note' => implode(' ', array_diff(explode(' ', self::SEES[$side->value]), ['auditor'])),
            default => $may,
        };
    }

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

    /** @return array<string, User> */
    private function users(): array
    {
        $users = [];
        foreach (self::ROLES as $role) {
            $users[$role] =
                self::get(EntityManagerInterface::class)
                    ->getRepository(User::class)
                    ->findOneBy(['username' => $role]) ?? self::fail();
        }

        return $users;
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

    /** @param array<string, int|string> $ids */
    private function send(string $method, string $path, string $token, array $ids): int
    {
        // whatever a form may name is of the other company
        $fields = [
            '_token' => $token,
            'file' => $ids['import'],
            'member' => $ids['member'],
            'limit' => '1',
            'period' => $ids['period'],
            'which' => 'payables',
            'to' => 'locked',
            'bank' => $ids['bank'],
            'bank_account' => $ids['bank'],
            'book' => $ids['book'],
            'ids' => [$ids['receivables']],
            'documents' => [$ids['payables']],
            'id' => $ids['account'],
            '_id' => $ids['account'],
            'habit' => '1',
            'proposal' => $ids['proposal'],
            'item' => $ids['item'],
            'items' => [$ids['item']],
            'payment' => '1',
            'kind' => 'vendors',
            'reason' => 'because',
        ];
        $this->browser->request($method, $path, 'GET' === $method ? [] : $fields);

        return $this->browser->getResponse()->getStatusCode();
    }

    /** Not there, or refused on the page it leads to. */
    private function notFound(int $status): bool
    {
        if (303 !== $status && 302 !== $status) {
            return 404 === $status;
        }
        $page = $this->browser->followRedirect();

        return 404 === $this->browser->getResponse()->getStatusCode() || $page->filter('.said-refused')->count() > 0;
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
                    "($id, 1, '2026-05-31', 1, 0, 0, '[]', $user, NOW()",
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

    /** All rows of a company, in short. */
    private function fingerprint(int|string $company): string
    {
        $all = [];
        foreach (
            $this->db()->fetchFirstColumn(
                "SELECT table_name FROM information_schema.columns WHERE table_schema = DATABASE() AND column_name = 'company_id'",
            ) as $table
        ) {
            $all[$table] = $this->db()->fetchAllNumeric("SELECT * FROM $table WHERE company_id = ? ORDER BY 1, 2, 3", [
                $company,
            ]);
        }

        return hash('sha256', serialize($all));
    }
}
