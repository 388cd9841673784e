<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\App\Platform\Apart;
use Nelbix\App\Work\Worker;
use Nelbix\Core\Formats\CreditorReference;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\Process\Process;

/** Customer invoices on paper and in the outbox. */
final class OutboxTest extends ScreenCase
{
    /** @param array<string, mixed> $raw as it is typed into the form */
    private function typed(Side $side, array $raw): int
    {
        return self::get(PostInvoice::class)->post(
            $this->clerk,
            self::get(InvoiceReader::class)->read($this->clerk, $side, [
                'party' => Side::Payables === $side ? 'V-1' : 'C-1',
                'document_date' => self::DAY,
                ...$raw,
            ]),
        );
    }

    private static function textOf(string $pdf): string
    {
        $process = new Process(['pdftotext', '-layout', '-', '-'], null, null, $pdf);
        $process->mustRun();

        return (string) preg_replace('/\s+/', ' ', $process->getOutput());
    }

    public function testManyInvoicesInOnePdf(): void
    {
        $this->db()->executeStatement("UPDATE bank_account SET iban = 'GB82WEST12345698765432' WHERE company_id = ?", [
            $this->clerk->companyId,
        ]);
        $a = $this->typed(Side::Receivables, [
            'terms' => '2-10-N30',
            'lines' => [['account' => '4000', 'amount' => '12 × 4.50', 'text' => 'hull survey']],
        ]);
        $b = $this->invoice(Side::Receivables, '40.00', ['kind' => 'credit_note']);
        $draft = (int) $this->db()->fetchOne('SELECT MAX(id) FROM document') + 999;
        $this->post('/TEST/receivables/documents', '/TEST/receivables/print', [
            'ids' => [(string) $a, (string) $b, (string) $draft, 'x'],
        ]);
        $text = self::textOf((string) $this->browser->getResponse()->getContent());
        $reference = CreditorReference::of('CI-26-00001');
        foreach (
            [
                'CI-26-00001',
                'CC-26-00001',
                'hull survey 12 4.5 54.00',
                '2 % within 10 days, net 30 days from the document date',
                'IBAN GB82 WEST 1234 5698 7654 32',
                $reference,
                'you may deduct 1.08',
            ] as $expected
        ) {
            self::assertStringContainsString($expected, $text);
        }
        self::assertSame(1, substr_count($text, 'Payment reference'), 'a credit note asks for no payment');
        self::assertStringContainsString(
            'Pick at least one',
            $this->post('/TEST/receivables/documents', '/TEST/receivables/print', ['ids' => ['0']])
                ->filter('.said-refused')
                ->text(),
        );
        $this->invoice(Side::Payables, '5.00', ['number' => 'V']);
        self::assertStringContainsString(
            'Pick at least one',
            $this->post('/TEST/receivables/documents', '/TEST/receivables/print', [
                'ids' => [(string) $this->db()->fetchOne("SELECT id FROM document WHERE side = 'payables'")],
            ])
                ->filter('.said-refused')
                ->text(),
        );
    }

    public function testSendingListsMissingAddressesFirstAndKeepsEmlFiles(): void
    {
        $a = $this->invoice(Side::Receivables, '100.00');
        $b = $this->invoice(Side::Receivables, '200.00');
        $this->db()->executeStatement("UPDATE party SET email = '' WHERE code = 'C-1'");
        $refused = $this->post('/TEST/receivables/documents', '/TEST/receivables/send', [
            'ids' => [(string) $a, (string) $b],
        ])
            ->filter('.said-refused')
            ->text();
        self::assertStringContainsString('Nothing was sent. No address is known for', $refused);
        self::assertStringContainsString('(C-1)', $refused);
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM outbox'));
        $this->db()->executeStatement("UPDATE party SET email = 'office@crew.example' WHERE code = 'C-1'");
        self::assertStringContainsString(
            '2 messages are sent',
            $this->post('/TEST/receivables/documents', '/TEST/receivables/send', ['ids' => [(string) $a, (string) $b]])
                ->filter('.said-done')
                ->text(),
        );
        $list = $this->browser->request('GET', '/TEST/receivables/outbox')->filter('table.list');
        self::assertStringContainsString('office@crew.example', $list->text());
        $this->browser->request('GET', (string) $list->filter('a[href$=".eml"]')->first()->attr('href'));
        $eml = (string) $this->browser->getResponse()->getContent();
        // read by PHP's own mail-independent eyes: headers, a PDF part that is whole
        self::assertMatchesRegularExpression('/^Subject: Invoice CI-26-00002 of /m', $eml);
        self::assertMatchesRegularExpression('/^To: office@crew.example/m', $eml);
        self::assertSame(1, preg_match('/filename=CI-26-00002\.pdf\r\n\r\n(.+?)\r\n--/s', $eml, $m));
        self::assertStringContainsString('CI-26-00002', self::textOf((string) base64_decode($m[1] ?? '', true)));
        self::assertSame(
            ['sent', 'office@crew.example'],
            $this->db()->fetchNumeric(
                "SELECT action, detail FROM history WHERE subject = 'document' AND subject_id = ? ORDER BY id DESC LIMIT 1",
                [$b],
            ),
        );
        $this->browser->request('GET', '/OTHER/receivables/outbox/1.eml');
        self::assertSame(404, $this->browser->getResponse()->getStatusCode());
    }

    public function testQuantityAndPriceStayOnTheLine(): void
    {
        $id = $this->typed(Side::Payables, [
            'number' => 'Q-1',
            'lines' => [['account' => '5000', 'amount' => '42.5*18.40'], ['account' => '5000', 'amount' => '1200/3']],
        ]);
        self::assertSame(
            [['42.5000', '18.400000', 78200], [null, null, 40000]],
            array_map(
                static fn (array $r): array => [$r[0], $r[1], (int) $r[2]],
                $this->db()->fetchAllNumeric(
                    'SELECT quantity, price, amount FROM document_line WHERE document_id = ? ORDER BY position',
                    [$id],
                ),
            ),
        );
        $form = $this->browser->request('GET', '/TEST/payables/document/'.$id.'/put-right');
        self::assertSame('42.5 × 18.4', $form->filter('input[name="lines[0][amount]"]')->attr('value'));
    }

    /** rules.md: receipt with discount; here the money is a row of the invoice's own form. */
    public function testMoneyThatCameWithTheInvoiceIsSettledInTheSameAction(): void
    {
        $form = [
            'party' => 'C-1',
            'document_date' => '6/10',
            'terms' => '2-10-N30',
            'lines' => [['account' => '4000', 'amount' => '1000']],
            'money_amount' => '980',
            'money_bank' => '1000',
            'money_reference' => 'T-1',
            '_key' => 'm1',
            '_action' => 'post',
        ];
        $live = $this->post('/TEST/receivables/documents', '/TEST/receivables/invoice/live', $form);
        self::assertStringContainsString('The money that came with it', $live->text());
        self::assertStringContainsString('Came with it 980.00', $live->filter('.beam')->text());
        $this->post('/TEST/receivables/documents', '/TEST/receivables/invoice', $form);
        $this->post('/TEST/receivables/documents', '/TEST/receivables/invoice', $form);
        self::assertSame(
            [0, 0],
            array_map('intval', $this->db()->fetchFirstColumn('SELECT open FROM open_item ORDER BY id')),
            'once, and settled with its discount',
        );
        self::assertSame(
            [98000, 2000, -100000, 0],
            [$this->balance('1000'), $this->balance('4900'), $this->balance('4000'), $this->balance('1200')],
        );
        // more than the invoice: the rest stays unapplied; less: the rest stays owed
        $this->post('/TEST/receivables/documents', '/TEST/receivables/invoice', [
            ...$form,
            'money_amount' => '1100',
            '_key' => 'm2',
        ]);
        $this->post('/TEST/receivables/documents', '/TEST/receivables/invoice', [
            ...$form,
            'money_amount' => '490',
            '_key' => 'm3',
        ]);
        self::assertSame(
            [0, -10000, 50000, 0],
            array_map('intval', $this->db()->fetchFirstColumn('SELECT open FROM open_item ORDER BY id LIMIT 2, 4')),
        );
        foreach (
            [['money_amount' => '-1'], ['money_amount' => 'x'], ['money_bank' => 'nope'], ['kind' => 'credit_note']] as $k => $wrong
        ) {
            $refused = $this->post('/TEST/receivables/documents', '/TEST/receivables/invoice', [
                ...$form,
                ...$wrong,
                '_key' => 'w'.$k,
            ]);
            self::assertCount(1, $refused->filter('.said-refused'), json_encode($wrong, \JSON_THROW_ON_ERROR));
        }
        self::assertSame(
            6,
            (int) $this->db()->fetchOne('SELECT COUNT(*) FROM document'),
            'a refusal keeps neither invoice nor money',
        );
    }

    /** rules.md: customer invoice with cost of sales / inventory when a cost is given, the other way round when goods come back. */
    public function testCostOfSales(): void
    {
        $this->typed(Side::Receivables, [
            'lines' => [
                ['account' => '4000', 'amount' => '250', 'cost' => '140.50', 'tax_code' => 'S8'],
                ['account' => '4100', 'amount' => '50'],
            ],
        ]);
        self::assertSame(
            [14050, -14050, -25000, 32000],
            [$this->balance('5500'), $this->balance('1400'), $this->balance('4000'), $this->balance('1200')],
        );
        $this->typed(Side::Receivables, [
            'kind' => 'credit_note',
            'lines' => [['account' => '4000', 'amount' => '250', 'cost' => '140.50', 'tax_code' => 'S8']],
        ]);
        self::assertSame([0, 0, 0], [$this->balance('5500'), $this->balance('1400'), $this->balance('4000')]);
        self::assertSame(
            ['lines.0.cost'],
            self::refusedFields(
                fn () => $this->typed(Side::Receivables, [
                    'lines' => [['account' => '4000', 'amount' => '1', 'cost' => '-1']],
                ]),
            ),
        );
    }

    /**
     * Allowances and charges are part of the taxed net (EN 16931, BR-CO-13); without them the discount's base may be asked (rules.md,
     * Settings).
     */
    public function testAllowancesChargesAndTheDiscountBase(): void
    {
        $this->db()->executeStatement(
            "INSERT INTO setting (company_id, name, value) VALUES (?, 'discount_base', 'net_without_charges')",
            [$this->clerk->companyId],
        );
        $id = $this->typed(Side::Receivables, [
            'terms' => '2-10-N30',
            'salesperson' => 'A. Wren',
            'commission_percent' => '2.5',
            'lines' => [
                ['account' => '4000', 'amount' => '1000', 'tax_code' => 'S8'],
                [
                    'account' => '4000',
                    'amount' => '100',
                    'tax_code' => 'S8',
                    'kind' => 'allowance',
                    'text' => 'trade discount',
                ],
                ['account' => '4000', 'amount' => '50', 'tax_code' => 'S8', 'kind' => 'charge', 'text' => 'packing'],
            ],
        ]);
        // net 950.00, tax 76.00; 2 % of 900.00
        self::assertSame([-95000, 102600], [$this->balance('4000'), $this->balance('1200')]);
        self::assertSame(
            1800,
            (int) $this->db()->fetchOne(
                'SELECT x.amount FROM item_discount x JOIN open_item i ON i.id = x.item_id WHERE i.document_id = ?',
                [$id],
            ),
        );
        $page = $this->browser
            ->request('GET', '/TEST/receivables/document/'.$id)
            ->filter('main')
            ->text();
        foreach (['allowance: trade discount', 'charge: packing', 'A. Wren, 2.5 %'] as $expected) {
            self::assertStringContainsString($expected, $page);
        }
        $form = $this->browser->request('GET', '/TEST/receivables/document/'.$id.'/put-right');
        self::assertSame(
            ['100.00', 'allowance', 'A. Wren', '2.5'],
            [
                $form->filter('input[name="lines[1][amount]"]')->attr('value'),
                $form->filter('select[name="lines[1][kind]"] option[selected]')->attr('value'),
                $form->filter('#salesperson')->attr('value'),
                $form->filter('#commission_percent')->attr('value'),
            ],
        );
        self::assertSame(
            ['lines.0.kind', 'lines.1.amount', 'commission_percent'],
            self::refusedFields(
                fn () => $this->typed(Side::Receivables, [
                    'commission_percent' => 'x',
                    'lines' => [
                        ['account' => '4000', 'amount' => '1', 'kind' => 'gift'],
                        ['account' => '4000', 'amount' => '-1', 'kind' => 'charge'],
                    ],
                ]),
            ),
        );
    }

    /** Many invoices are the worker's work: none is left out, the PDF has them all, and each is sent once. */
    public function testManyInvoicesAreSentAndPrintedByTheWorkerAndNoneIsLeftOut(): void
    {
        $ids = [];
        for ($n = 0; $n < 23; ++$n) {
            $ids[] = (string) $this->invoice(Side::Receivables, '10.00');
        }
        $customer = (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'C-1'");
        $refused = $this->post('/TEST/receivables/documents', '/TEST/receivables/send', ['ids' => $ids]);
        self::assertStringContainsString('No address is known', $refused->filter('.said-refused')->text());
        $this->db()->executeStatement("UPDATE party SET email = 'a@b.example' WHERE id = ?", [$customer]);
        self::get(EntityManagerInterface::class)->clear();
        $page = $this->post('/TEST/receivables/documents', '/TEST/receivables/send', ['ids' => $ids]);
        self::assertStringContainsString('0 of 23', str_replace("\u{a0}", ' ', $page->filter('.progress')->text()));
        $worker = self::get(Worker::class);
        while ($worker->next()) {
        }
        self::assertSame(23, (int) $this->db()->fetchOne('SELECT COUNT(DISTINCT document_id) FROM outbox'));
        self::assertSame(23, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM outbox'));
        $this->post('/TEST/receivables/documents', '/TEST/receivables/print', ['ids' => $ids]);
        while ($worker->next()) {
        }
        $list = (int) $this->db()->fetchOne("SELECT MAX(id) FROM stored_file WHERE subject = 'list'");
        $page = $this->page('/TEST/receivables/list/'.$list);
        $this->browser->click($page->selectLink('Open the PDF')->link());
        $pdf = (string) $this->browser->getResponse()->getContent();
        self::assertStringStartsWith('%PDF', $pdf);
        self::assertStringContainsString('Pages:           23', (string) Apart::run(['pdfinfo', '-'], $pdf));
        // it is its maker's alone
        $this->as('receivables');
        $this->browser->request('GET', '/TEST/receivables/list/'.$list.'.pdf');
        self::assertSame(404, $this->browser->getResponse()->getStatusCode());
    }
}
