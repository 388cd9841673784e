<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\HowTakenBack;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Close\Aging\AgingLine;
use Nelbix\App\Close\TieOut\TieOutQuery;
use Nelbix\App\Money\RequestRefund;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\DomCrawler\Crawler;

/** A customer's credit paid back: asked for on one side, paid by a run on the other. Source: rules.md, Journal entries and Transfers. */
final class RefundTest extends ScreenCase
{
    /** 500.00 unapplied of the customer. */
    private function credit(): int
    {
        return $this->itemOf($this->money(Side::Receivables, 50000));
    }

    private function request(int $credit, int $amount): int
    {
        return self::get(RequestRefund::class)->request(
            $this->clerk,
            $credit,
            $amount,
            Day::of(self::DAY),
            'paid twice',
        );
    }

    /** @return array<string, int> balances in the normal sign */
    private function ties(): array
    {
        $ties = [];
        foreach (self::get(TieOutQuery::class)->of($this->clerk->companyId, Day::of(self::DAY)) as $t) {
            self::assertSame(0, $t['tie']->difference(), $t['name']);
            $ties[$t['role']->value] = $t['tie']->ledger;
        }

        return $ties;
    }

    public function testTheRequestMovesThePartToRefundsPayable(): void
    {
        $credit = $this->credit();
        $request = $this->request($credit, 20000);
        self::assertSame(-30000, $this->open($credit));
        self::assertSame(
            [['RQ-26-00001', 'receivables', 20000, 0], ['RQ-26-00001', 'payables', 20000, 20000]],
            array_map(
                static fn (array $r): array => [$r['number'], $r['side'], (int) $r['original'], (int) $r['open']],
                $this->db()->fetchAllAssociative(
                    'SELECT number, side, original, open FROM open_item WHERE document_id = ? ORDER BY part',
                    [$request],
                ),
            ),
        );
        self::assertSame(
            [-30000, 20000],
            [$this->ties()[AccountRole::Receivables->value], $this->ties()[AccountRole::RefundsPayable->value]],
        );
        self::assertSame(
            [20000],
            array_map(
                static fn (AgingLine $l): int => $l->row->total(),
                $this->aged(Side::Payables, Day::of(self::DAY)),
            ),
            'the customer stands among the vendors until it is paid',
        );
    }

    public function testWhatIsNotRefunded(): void
    {
        $credit = $this->credit();
        self::assertSame(['amount'], self::refusedFields(fn () => $this->request($credit, 50001)));
        self::assertSame(['amount'], self::refusedFields(fn () => $this->request($credit, 0)));
        self::assertSame(
            ['item'],
            self::refusedFields(fn () => $this->request($this->itemOf($this->invoice(Side::Receivables, '10')), 100)),
        );
        self::assertSame(
            ['item'],
            self::refusedFields(
                fn () => $this->request(
                    $this->itemOf($this->invoice(Side::Payables, '10', ['kind' => 'credit_note'])),
                    100,
                ),
            ),
        );
        self::assertSame(
            ['date'],
            self::refusedFields(
                fn () => self::get(RequestRefund::class)->request($this->clerk, $credit, 100, Day::of('2026-06-14'), ''),
            ),
        );
    }

    public function testARunPaysItWithTheCustomerAsPayee(): void
    {
        $this->request($this->credit(), 50000);
        $this->invoice(Side::Payables, '70.00', ['document_date' => '2026-04-01', 'terms' => 'N30']);
        $run = $this->printedRun();
        self::assertSame(2, $this->postRun($run));
        self::assertSame(
            ['C-1 50000', 'V-1 7000'],
            $this->db()->fetchFirstColumn(
                "SELECT CONCAT(p.code, ' ', k.amount) FROM bank_check k JOIN party p ON p.id = k.party_id ORDER BY p.code",
            ),
        );
        self::assertEquals(
            ['receivables' => 0, 'refunds_payable' => 0, 'payables' => 0],
            array_intersect_key($this->ties(), ['receivables' => 1, 'refunds_payable' => 1, 'payables' => 1]),
        );
        $payment = (int) $this->db()->fetchOne(
            "SELECT d.id FROM document d JOIN party p ON p.id = d.party_id WHERE d.kind = 'payment' AND p.code = 'C-1'",
        );
        // refund paid: refunds payable against bank, nothing else
        self::assertSame(
            ['1000 -50000', '2160 50000'],
            $this->db()->fetchFirstColumn(
                <<<SQL
                SELECT CONCAT(a.number, ' ', l.base)
                FROM journal_line l
                JOIN journal_entry e ON e.id = l.entry_id
                JOIN account a ON a.id = l.account_id
                WHERE e.source_kind = 'document' AND e.source_id = ?
                ORDER BY a.number
                SQL
                ,
                [$payment],
            ),
        );
        self::get(ReverseDocument::class)->event(
            $this->clerk,
            $payment,
            Day::of(self::DAY),
            HowTakenBack::Voided,
            'lost',
        );
        self::assertSame(50000, $this->ties()['refunds_payable'], 'it is to be paid again');
    }

    public function testItIsTakenBackWhileNobodyTouchedIt(): void
    {
        $credit = $this->credit();
        $request = $this->request($credit, 20000);
        $settlement = (int) $this->db()->fetchOne('SELECT id FROM settlement WHERE document_id = ?', [$request]);
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(UndoSettlement::class)->undo($this->clerk, $settlement)),
            'the settlement stands with the request',
        );
        $run = $this->printedRun();
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(ReverseDocument::class)->reverse($this->clerk, $request, 'no')),
            'a run holds it',
        );
        $this->postRun($run);
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(ReverseDocument::class)->reverse($this->clerk, $request, 'no')),
            'it is paid',
        );
        $other = $this->request($credit, 30000);
        self::assertSame(0, $this->open($credit));
        self::get(ReverseDocument::class)->reverse($this->clerk, $other, 'a mistake');
        self::assertSame(
            [-30000, 0, -30000],
            [$this->open($credit), $this->ties()['refunds_payable'], $this->ties()['receivables']],
        );
    }

    /** 1,000.00 EUR of credit at 1.10 are moved at what they stand in the books for; a third of it by proportion. */
    public function testForeignCurrencyKeepsItsBase(): void
    {
        $this->db()->executeStatement(
            <<<SQL
            INSERT INTO exchange_rate (company_id, valid_on, from_currency, to_currency, rate)
            VALUES (?, '2026-06-01', 'EUR', 'USD', 1.10), (?, '2026-06-15', 'EUR', 'USD', 1.20)
            SQL
            ,
            [$this->clerk->companyId, $this->clerk->companyId],
        );
        $credit = $this->itemOf(
            $this->money(Side::Receivables, 100000, [], [], '2026-06-10', DocumentKind::Receipt, 'EUR'),
        );
        $request = $this->request($credit, 33333);
        self::assertSame(
            [36666, 36666],
            array_map(
                'intval',
                $this->db()->fetchFirstColumn(
                    'SELECT original_base FROM open_item WHERE document_id = ? ORDER BY part',
                    [$request],
                ),
            ),
        );
        self::assertSame(
            0,
            (int) $this->db()->fetchOne('SELECT exchange FROM settlement WHERE document_id = ?', [$request]),
        );
    }

    public function testAskedForOnTheCreditsPageAndReadOnBothSides(): void
    {
        $credit = $this->credit();
        $document = (int) $this->db()->fetchOne('SELECT document_id FROM open_item WHERE id = ?', [$credit]);
        $this->as('receivables');
        $page = $this->post(
            '/TEST/receivables/document/'.$document,
            '/TEST/receivables/document/'.$document.'/refund',
            ['item' => $credit, 'amount' => '600.00', 'reason' => 'paid twice'],
        );
        self::assertStringContainsString('500.00 USD of RC-26-00001 is open', $page->text());
        $page = $this->post(
            '/TEST/receivables/document/'.$document,
            '/TEST/receivables/document/'.$document.'/refund',
            ['item' => $credit, 'amount' => '200.00', 'reason' => 'paid twice'],
        );
        self::assertStringContainsString('RQ-26-00001 asks for the refund', $page->text());
        $request = (int) $this->db()->fetchOne("SELECT id FROM document WHERE kind = 'refund_request'");
        $entry = $this->page('/TEST/receivables/document/'.$document.'/refund?item='.$credit.'&amount=100/4');
        self::assertSame(
            ['1200 Receivables control 25.00', '2160 Refunds payable 25.00'],
            $entry
                ->filter('.t')
                ->each(
                    static fn (Crawler $t): string => trim(
                        (string) preg_replace(
                            '/\s+/',
                            ' ',
                            implode(' ', [
                                $t->filter('.t-head span')->text(),
                                $t->filter('.t-head b')->text(),
                                $t->filter('.t-body')->text(),
                            ]),
                        ),
                    ),
                ),
        );
        self::assertStringContainsString(
            '300.00 USD of RC-26-00001 is open',
            $this->page('/TEST/receivables/document/'.$document.'/refund?item='.$credit.'&amount=301')->text(),
        );
        self::assertStringContainsString(
            'by RQ-26-00001',
            $this->page('/TEST/receivables/document/'.$request)->text(),
        );
        $this->as('payables');
        $page = $this->page('/TEST/payables/document/'.$request);
        self::assertCount(0, $page->selectButton('Reverse'), 'it is the other side’s to take back');
        $this->browser->request('GET', '/TEST/payables/document/'.$request.'/trail');
        self::assertSame(200, $this->browser->getResponse()->getStatusCode(), 'who pays it sees what it led to');
        $this->browser->request('GET', '/TEST/payables/document/'.$document.'/trail');
        self::assertSame(404, $this->browser->getResponse()->getStatusCode(), 'the receipt is not theirs to see');
        $this->browser->request(
            'GET',
            '/TEST/payables/party/'.$this->db()->fetchOne("SELECT id FROM party WHERE code = 'C-1'"),
        );
        self::assertTrue($this->browser->getResponse()->isRedirection());
        self::assertStringContainsString('RQ-26-00001', $this->page('/TEST/payables/items')->text());
    }

    /** A refund request is no invoice: it is not printed, put right or repeated as one. */
    public function testItIsNotTakenForAnInvoice(): void
    {
        $request = $this->request($this->credit(), 20000);
        foreach (
            [
                '/TEST/receivables/document/'.$request.'/invoice.pdf',
                '/TEST/receivables/document/'.$request.'/put-right',
            ] as $path
        ) {
            $this->browser->request('GET', $path);
            self::assertSame(404, $this->browser->getResponse()->getStatusCode(), $path);
        }
        self::assertSame(
            [''],
            self::refusedFields(
                fn () => self::get(\Nelbix\App\Invoices\KeepRecurring::class)->begin(
                    $this->clerk,
                    Side::Receivables,
                    $request,
                    ['name' => 'x', 'every' => 'month', 'first_on' => '2026-07-01'],
                ),
            ),
        );
    }
}
