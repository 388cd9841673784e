<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\People\User;
use Nelbix\Core\Ledger\Side;

/**
 * Every route, by every role, with the records of another company: whoever lacks the permission is refused, whoever has it does not
 * find them, and nothing of theirs is changed. Who may what is written out here from product.md, Who uses it.
 */
final class DoorsTest extends ScreenCase
{
    use EveryRoute;

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
        'bank_file_withdraw' => self::PAYS,
        'debit_file_withdraw' => 'receivables controller',
        'proposal_books' => self::SEES['payables'],
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
        'document_release' => 'see',
        'why' => 'see',
        'document_trail' => 'see',
        'party_water' => 'see',
        'party_alike' => 'see',
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
