<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\PlacementRequest;
use Nelbix\Core\Ledger\Side;
use PHPUnit\Framework\Attributes\DataProvider;
use Symfony\Component\DomCrawler\Crawler;
use Symfony\Component\Process\Process;

/** The screens as plain pages and form posts. */
final class ScreenTest extends ScreenCase
{
    public function testAnInvoiceIsEnteredKeptPostedAndShown(): void
    {
        $form = [
            'party' => 'V-1',
            'number' => 'P-77',
            'document_date' => '6/10',
            'lines' => [['account' => '5000', 'amount' => '100', 'tax_code' => 'P8', 'text' => 'oak']],
        ];
        $kept = $this->post('/TEST/payables/invoice', '/TEST/payables/invoice', [...$form, '_action' => 'draft']);
        self::assertStringContainsString('Draft saved', $kept->filter('.said-done')->text());
        $id = (int) $kept->filter('input[name=_draft]')->attr('value');
        self::assertSame('6/10', $kept->filter('input[name=document_date]')->attr('value'));
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM journal_entry'));
        self::assertStringContainsString(
            'draft '.$id,
            $this->page('/TEST/payables/documents?state=draft')->filter('table.list')->text(),
        );

        $fields = [
            ...$form,
            '_draft' => (string) $id,
            '_version' => $kept->filter('input[name=_version]')->attr('value'),
            '_key' => 'k1',
        ];
        $posted = $this->post('/TEST/payables/draft/'.$id, '/TEST/payables/invoice', [
            ...$fields,
            '_action' => 'post',
        ]);
        self::assertStringContainsString(
            'Posted VI-26-00001. Payables rose by 108.00 USD. Due 10 Jul 2026; 2.16 discount until 20 Jun 2026.',
            $posted->filter('.said-done')->text(),
        );
        self::assertSame('VI-26-00001', $posted->filter('h1')->text());
        self::assertSame(
            $id,
            (int) $this->db()->fetchOne("SELECT id FROM document WHERE state = 'posted'"),
            'the draft became the document',
        );
        // the same form sent again changes nothing
        $again = $this->post('/TEST/payables/invoice', '/TEST/payables/invoice', [...$fields, '_action' => 'post']);
        self::assertSame('VI-26-00001', $again->filter('h1')->text());
        self::assertSame(1, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM document'));
    }

    public function testADraftThatSomebodyElseSavedIsNotOverwritten(): void
    {
        $form = [
            'party' => 'V-1',
            'number' => 'P-78',
            'document_date' => '.',
            'lines' => [['account' => '5000', 'amount' => '1']],
        ];
        $kept = $this->post('/TEST/payables/invoice', '/TEST/payables/invoice', [...$form, '_action' => 'draft']);
        $draft = [
            '_draft' => $kept->filter('input[name=_draft]')->attr('value'),
            '_version' => $kept->filter('input[name=_version]')->attr('value'),
        ];
        $this->post('/TEST/payables/invoice', '/TEST/payables/invoice', [
            ...$form,
            ...$draft,
            'description' => 'first',
            '_action' => 'draft',
        ]);
        $late = $this->post('/TEST/payables/invoice', '/TEST/payables/invoice', [
            ...$form,
            ...$draft,
            'description' => 'second',
            '_action' => 'draft',
        ]);
        self::assertStringContainsString(
            'Somebody else saved this draft meanwhile',
            $late->filter('.said-refused')->text(),
        );
        $discarded = $this->post(
            '/TEST/payables/draft/'.$draft['_draft'],
            '/TEST/payables/draft/'.$draft['_draft'].'/discard',
            [],
        );
        self::assertStringContainsString('Draft thrown away', $discarded->filter('.said-done')->text());
    }

    public function testTheEntryPanelFollowsTheForm(): void
    {
        $this->invoice(Side::Payables, '100.00', ['number' => 'A-0012']);
        $live = $this->post('/TEST/payables/invoice', '/TEST/payables/invoice/live', [
            'party' => 'V-1',
            'number' => 'A12',
            'document_date' => '-5',
            'stated_total' => '1080',
            'lines' => [
                ['account' => '5000', 'amount' => '400+32.50', 'tax_code' => 'P8'],
                ['account' => '5200', 'amount' => '', 'tax_code' => 'P8', 'text' => 'freight'],
                ['account' => 'x', 'amount' => '1'],
            ],
        ]);
        $html = (string) $this->browser->getResponse()->getContent();
        self::assertStringContainsString('467.10', $html, 'with tax');
        self::assertStringContainsString(
            'data-rest="567.50"',
            $html,
            'what the paper leaves for the empty line, before tax',
        );
        self::assertStringContainsString('number alike', $html);
        self::assertStringContainsString('10 Jun 2026', $html);
        self::assertStringContainsString('There is no account “x”', $html);
        self::assertSame(0, $live->filter('script')->count());
    }

    public function testTheReceiptBoardPlacesAndRefuses(): void
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '1000.00'));
        $fields = [
            'party' => 'C-1',
            'bank' => '1000',
            'date' => '.',
            'amount' => '980',
            'placed' => [$item => '1000'],
            'discount' => [$item => '20'],
        ];
        $this->post('/TEST/receivables/receipt', '/TEST/receivables/receipt/live', $fields);
        $html = (string) $this->browser->getResponse()->getContent();
        self::assertStringContainsString('left to place 0.00', $html);
        self::assertStringContainsString('beam-closed', $html);
        self::assertStringContainsString('Discounts allowed', $html);

        $refused = $this->post('/TEST/receivables/receipt', '/TEST/receivables/receipt', [
            ...$fields,
            'discount' => [$item => '20.01'],
        ]);
        self::assertStringContainsString('at most 20.00', $refused->filter('.said-refused')->text());
        $refused = $this->post('/TEST/receivables/receipt', '/TEST/receivables/receipt', [
            ...$fields,
            'placed' => [$item => '1000.01'],
        ]);
        self::assertStringContainsString('place no more than that', $refused->filter('.said-refused')->text());
        $refused = $this->post('/TEST/receivables/receipt', '/TEST/receivables/receipt', [
            ...$fields,
            'amount' => '900',
        ]);
        self::assertStringContainsString(
            'more is placed than the money holds',
            $refused->filter('.said-refused')->text(),
        );
        self::assertSame(100000, $this->open($item));

        $posted = $this->post('/TEST/receivables/receipt', '/TEST/receivables/receipt', [...$fields, '_key' => 'r1']);
        self::assertStringContainsString('Receivables fell by 1,000.00 USD', $posted->filter('.said-done')->text());
        self::assertSame(0, $this->open($item));
        $settlement = (int) $this->db()->fetchOne('SELECT id FROM settlement');
        $document = (int) $this->db()->fetchOne("SELECT id FROM document WHERE kind = 'receipt'");
        $undone = $this->post(
            '/TEST/receivables/document/'.$document,
            '/TEST/receivables/settlement/'.$settlement.'/undo',
            ['document' => $document],
        );
        self::assertStringContainsString('The settlement is undone', $undone->filter('.said-done')->text());
        self::assertSame(100000, $this->open($item));
    }

    public function testAnIdeaIsTakenAndThePartHasItsPartOfTheDiscount(): void
    {
        $a = $this->itemOf($this->invoice(Side::Receivables, '1000.00'));
        $b = $this->itemOf($this->invoice(Side::Receivables, '300.00'));
        $number = (string) $this->db()->fetchOne('SELECT number FROM open_item WHERE id = ?', [$a]);
        $live = fn (array $fields): Crawler => $this->post(
            '/TEST/receivables/receipt',
            '/TEST/receivables/receipt/live',
            ['party' => 'C-1', 'bank' => '1000', 'date' => '.', ...$fields],
        );
        $value = static fn (Crawler $page, string $name): string => (string) $page
            ->filter('input[name="'.$name.'"]')
            ->attr('value');

        $offered = $live(['amount' => '490', 'reference' => 'for '.$number]);
        self::assertStringContainsString(
            'Nelbix would place it so: their text names it',
            $offered->filter('.idea')->text(),
        );
        self::assertSame(
            '',
            $value($offered, 'placed['.$a.']'),
            'nothing is placed that the clerk did not ask for',
        );
        self::assertSame('their text names it', $offered->filter('tr[data-row="'.$a.'"] .why')->text());
        self::assertCount(0, $offered->filter('tr[data-row="'.$b.'"] .why'));

        // 490.00 within 2/10 of 1,000.00 settles 500.00 (textbook)
        $taken = $live(['amount' => '490', 'reference' => 'for '.$number, '_idea' => '1']);
        self::assertSame(
            ['500.00', '10.00'],
            [$value($taken, 'placed['.$a.']'), $value($taken, 'discount['.$a.']')],
        );
        $fitted = $live(['amount' => '490', '_fit' => (string) $a, 'placed' => [$b => '']]);
        self::assertSame(
            ['500.00', '10.00'],
            [$value($fitted, 'placed['.$a.']'), $value($fitted, 'discount['.$a.']')],
        );
        self::assertStringContainsString('stays short of 500.00', $fitted->filter('[data-loose="'.$a.'"]')->text());
        self::assertStringContainsString(
            'too much for a small difference, which is at most 1.00',
            $fitted->filter('[data-loose="'.$a.'"]')->text(),
        );
        // what another row has already is not there any more
        $second = $live(['amount' => '490', '_fit' => (string) $a, 'placed' => [$b => '300']]);
        self::assertSame('193.88', $value($second, 'placed['.$a.']'));
        self::assertSame(
            'oldest first',
            $live(['amount' => '490', '_idea' => '1'])
                ->filter('.why')
                ->first()
                ->text(),
            'nothing fits, so the key gives the oldest',
        );
    }

    public function testTheRestGoesToThePlaceOnTheShelf(): void
    {
        $a = $this->itemOf($this->invoice(Side::Receivables, '1000.00', ['document_date' => '2026-05-01']));
        $fields = [
            'party' => 'C-1',
            'bank' => '1000',
            'date' => '.',
            'amount' => '999.20',
            'placed' => [$a => '999.20'],
        ];
        $owed = $this->post('/TEST/receivables/receipt', '/TEST/receivables/receipt/live', $fields);
        self::assertStringContainsString('stays short of 0.80', $owed->filter('[data-loose="'.$a.'"]')->text());
        $refused = $this->post('/TEST/receivables/receipt', '/TEST/receivables/receipt', [
            ...$fields,
            'placed' => [$a => '998'],
            'rest' => [$a => 'small'],
        ]);
        self::assertStringContainsString(
            'at most 1.00, it is short of 2.00; leave that owed',
            $refused->filter('.said-refused')->text(),
        );
        $this->post('/TEST/receivables/receipt', '/TEST/receivables/receipt', [
            ...$fields,
            'rest' => [$a => 'small'],
            '_key' => 's1',
        ]);
        self::assertSame(0, $this->open($a));
        self::assertSame(
            80,
            (int) $this->db()->fetchOne(
                "SELECT SUM(l.base) FROM journal_line l JOIN account a ON a.id = l.account_id WHERE a.role = 'small_differences'",
            ),
        );

        $b = $this->itemOf($this->invoice(Side::Receivables, '200.00', ['document_date' => '2026-05-01']));
        $said = $this->post('/TEST/receivables/receipt', '/TEST/receivables/receipt', [
            ...$fields,
            'amount' => '260',
            'placed' => [$b => '200'],
            'kind' => 'prepayment',
            '_key' => 's2',
        ]);
        self::assertStringContainsString('60.00 USD is a prepayment', $said->filter('.said-done')->text());
        self::assertSame(
            [0, -6000],
            [
                $this->open($b),
                (int) $this->db()->fetchOne(
                    "SELECT i.open FROM open_item i JOIN account a ON a.id = i.account_id WHERE a.role = 'customer_prepayments'",
                ),
            ],
        );
    }

    public function testAScriptInAnyReasonTextOrSettingStaysText(): void
    {
        $tag = '<script>alert(1)</script>';
        $clean = function (string $path) use ($tag): void {
            $this->page($path);
            $html = (string) $this->browser->getResponse()->getContent();
            self::assertStringNotContainsString($tag, $html, $path);
            self::assertStringContainsString('&lt;script&gt;alert(1)', $html, $path.' shows it as text');
        };
        // the receipt's text: while typing, refused, posted, in the lists and the journal
        $item = $this->itemOf($this->invoice(Side::Receivables, '100.00'));
        $fields = [
            'party' => 'C-1',
            'bank' => '1000',
            'date' => '.',
            'amount' => '40',
            'reference' => $tag,
            'placed' => [$item => '40'],
        ];
        foreach (
            [
                '/live' => $fields,
                '' => [...$fields, 'amount' => $tag],
                '/live?again' => [
                    ...$fields,
                    'bank' => $tag,
                    'date' => $tag,
                    'kind' => $tag,
                    'placed' => [$item => $tag],
                    'discount' => [$item => $tag],
                    'rest' => [$item => $tag],
                    '_idea' => $tag,
                    '_fit' => $tag,
                ],
            ] as $path => $sent
        ) {
            $this->post('/TEST/receivables/receipt', '/TEST/receivables/receipt'.$path, $sent);
            self::assertStringNotContainsString($tag, (string) $this->browser->getResponse()->getContent());
        }
        $this->post('/TEST/receivables/receipt', '/TEST/receivables/receipt', [...$fields, '_key' => 'x1']);
        $receipt = (int) $this->db()->fetchOne("SELECT id FROM document WHERE kind = 'receipt'");
        $clean('/TEST/receivables/document/'.$receipt);
        $clean(
            '/TEST/close/entry/'.
                $this->db()->fetchOne(
                    "SELECT number FROM journal_entry WHERE source_kind = 'document' AND source_id = ?",
                    [$receipt],
                ),
        );

        // reasons: held, bounced, reversed, refused, put back, numbers skipped, payment stopped
        $invoice = $this->invoice(Side::Payables, '12000.00', ['number' => 'X-1']);
        $page = '/TEST/payables/document/'.$invoice;
        $this->post($page, $page.'/change', ['_action' => 'hold', 'reason' => $tag]);
        $clean($page);
        $clean('/TEST/payables/documents?state=held');
        $this->post($page, $page.'/release', []);
        $this->as('approver');
        $this->post($page, $page.'/decide', ['_action' => 'refuse', 'reason' => $tag]);
        $this->as('controller');
        $clean($page);
        $this->post($page, $page.'/undo', ['_action' => 'reverse', 'reason' => $tag]);
        $clean(
            '/TEST/payables/document/'.
                $this->db()->fetchOne('SELECT reversed_by_id FROM document WHERE id = ?', [$invoice]),
        );
        $page = '/TEST/receivables/document/'.$receipt;
        $this->post($page, $page.'/undo', ['_action' => 'void', 'reason' => $tag]);
        $clean($page);

        // settings: what is not a value of theirs is refused, and shown back as text
        $refused = $this->post('/TEST/setup', '/TEST/setup', [
            'tolerance_amount' => $tag,
            'look_alike_days' => $tag,
            'date_order' => $tag,
        ]);
        self::assertCount(3, $refused->filter('.wrong'));
        self::assertStringNotContainsString($tag, (string) $this->browser->getResponse()->getContent());
        self::assertSame([], $this->db()->fetchFirstColumn("SELECT value FROM setting WHERE value LIKE '%script%'"));
        $quick = $this->post('/TEST/payables/party', '/TEST/payables/party/quick', [
            'code' => $tag,
            'name' => $tag,
            'terms' => $tag,
            'currency' => $tag,
            'default_account' => $tag,
        ]);
        self::assertCount(4, $quick->filter('.wrong'));
        self::assertStringNotContainsString($tag, (string) $this->browser->getResponse()->getContent());
    }

    public function testACheckRunWithItsPdf(): void
    {
        for ($n = 0; $n < 14; ++$n) {
            $this->invoice(Side::Payables, '72.93', ['document_date' => '2026-04-01', 'terms' => 'N30']);
        }
        $made = $this->post('/TEST/payables/proposal', '/TEST/payables/proposal', [
            'pay_date' => '.',
            'method' => 'check',
            '_key' => 'p1',
        ]);
        self::assertStringContainsString('Proposal made', $made->filter('.said-done')->text());
        $url = (string) parse_url((string) $this->browser->getRequest()->getUri(), \PHP_URL_PATH);
        self::assertSame(
            0,
            $made->filter('button[value=approve]')->count(),
            'who made it is not offered to approve it',
        );
        $this->as('approver');
        self::assertStringContainsString(
            'is approved',
            $this->post($url, $url.'/decide', ['_action' => 'approve'])
                ->filter('.said-done')
                ->text(),
        );
        $this->as('controller');
        $book = (int) $this->db()->fetchOne(
            'SELECT c.id FROM check_book c JOIN bank_account b ON b.id = c.bank_account_id WHERE b.company_id = ?',
            [$this->clerk->companyId],
        );
        $asked = $this->post($url, $url.'/print', ['check_book' => $book, 'first_number' => 1005]);
        self::assertStringContainsString('The next number of Checks is 1001', $asked->filter('.said-refused')->text());
        // the number that was typed stands there still, and the question beside it has the focus
        self::assertSame('1005', $asked->filter('#first_number')->attr('value'));
        self::assertNotNull($asked->filter('#skipped')->attr('autofocus'));
        // a number that was used: the reason stays
        $asked = $this->post($url, $url.'/print', ['check_book' => $book, 'first_number' => 7, 'skipped' => 'torn']);
        self::assertSame(
            ['7', 'torn'],
            [$asked->filter('#first_number')->attr('value'), $asked->filter('#skipped')->attr('value')],
        );
        $this->post($url, $url.'/print', ['check_book' => $book, 'first_number' => 1001]);
        $this->browser->request('GET', $url.'/checks.pdf');
        $text = $this->pdfText((string) $this->browser->getResponse()->getContent());
        self::assertStringContainsString('One thousand twenty-one and 02/100', $text);
        self::assertStringContainsString('1,021.02', $text);
        self::assertStringContainsString('and 3 more on the attached remittance page', $text);
        self::assertStringContainsString('Remittance for check 1001', $text);
        self::assertStringContainsString(
            'All checks came out',
            $this->post($url, $url.'/printed', [])
                ->filter('.said-done')
                ->text(),
        );
        self::assertStringContainsString(
            'Posted 1 payment of proposal',
            $this->post($url, $url.'/post', [])
                ->filter('.said-done')
                ->text(),
        );
        self::assertSame([-102102, 0], [$this->balance('1000'), $this->balance('2100')]);
        $register = $this->page('/TEST/bank/register/'.$book)
            ->filter('table.list')
            ->text();
        self::assertStringContainsString('1001', $register);
        self::assertStringContainsString('issued', $register);
    }

    public function testCustomerInvoicePdf(): void
    {
        $id = $this->invoice(Side::Receivables, '1234.50', [
            'lines' => [
                ['account' => '4100', 'amount' => '1234.50', 'text' => 'Refit, sloop Petrel', 'tax_code' => 'S8'],
            ],
        ]);
        $this->browser->request('GET', '/TEST/receivables/document/'.$id.'/invoice.pdf');
        $text = $this->pdfText((string) $this->browser->getResponse()->getContent());
        foreach (
            [
                'CI-26-00001',
                'Gannet Sailing School',
                'Refit, sloop Petrel',
                '1,234.50',
                '98.76',
                '1,333.26',
                'by 10 Jul 2026',
                'Paid by 20 Jun 2026, you may deduct 26.67',
            ] as $expected
        ) {
            self::assertStringContainsString($expected, $text);
        }
    }

    private function pdfText(string $pdf): string
    {
        self::assertStringStartsWith('%PDF-', $pdf);
        $process = new Process(['pdftotext', '-layout', '-', '-']);
        $process->setInput($pdf);
        $process->mustRun();

        return (string) preg_replace('/[ \t]+/', ' ', $process->getOutput());
    }

    public function testPartiesAreAddedChangedAndConfirmedByASecondPerson(): void
    {
        $refused = $this->post('/TEST/payables/party', '/TEST/payables/party/save', [
            'code' => 'V-1',
            'name' => '',
            'email' => 'nobody',
            'credit_limit' => 'x',
            'default_account' => '2100',
            'terms' => 'nope',
        ]);
        $text = $refused->filter('.said-refused')->text();
        foreach (
            [
                'There is a vendor V-1 already',
                'The name is missing',
                'not an e-mail address',
                'is not an amount',
                'control account',
                'There are no terms “nope”',
            ] as $expected
        ) {
            self::assertStringContainsString($expected, $text);
        }
        $tag = '<script>alert(1)</script>';
        $saved = $this->post('/TEST/payables/party', '/TEST/payables/party/save', [
            'code' => 'V-2',
            'name' => $tag,
            'street' => $tag,
            'city' => $tag,
            'tax_number' => $tag,
            'country' => $tag,
            'stops' => ['payment' => ['reason' => $tag]],
            'salesperson' => $tag,
            'contacts' => [['name' => $tag, 'does' => $tag, 'phone' => $tag]],
            'addresses' => ['remit' => ['name' => $tag, 'street' => $tag]],
            'method' => 'transfer',
            'iban' => 'DK50 0040 0440 1162 43',
            'terms' => 'N30',
        ]);
        self::assertStringContainsString('wait for a second person', $saved->filter('.said-done')->text());
        $id = (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'V-2'");
        foreach (
            [
                '/TEST/payables/party/'.$id,
                '/TEST/payables/parties',
                '/TEST/payables/party/'.$id.'/edit',
                '/TEST/search?q=V-2',
            ] as $path
        ) {
            $this->page($path);
            self::assertStringNotContainsString($tag, (string) $this->browser->getResponse()->getContent(), $path);
        }
        $this->as('approver');
        self::assertStringContainsString(
            'confirmed',
            $this->post('/TEST/payables/party/'.$id, '/TEST/payables/party/'.$id.'/confirm', [])
                ->filter('.said-done')
                ->text(),
        );
        $this->as('controller');
        $stale = $this->post('/TEST/payables/party/'.$id.'/edit', '/TEST/payables/party/save', [
            '_id' => $id,
            '_version' => 99,
            'name' => 'New name',
        ]);
        self::assertStringContainsString('Somebody else changed this record', $stale->filter('.said-refused')->text());
    }

    public function testPickersFindByCodeWordAndTaxNumberAndLeaveRetiredOut(): void
    {
        $pick = function (string $what, string $q): array {
            $this->browser->request('GET', '/TEST/payables/pick/'.$what.'?q='.urlencode($q));

            return array_column(json_decode((string) $this->browser->getResponse()->getContent(), true), 'code');
        };
        $id = (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'V-1'");
        $party = self::get(\Doctrine\ORM\EntityManagerInterface::class)->find(\Nelbix\App\Parties\Party::class, $id);
        self::assertNotNull($party);
        [$party->taxNumber, $party->street] = ['TN-5', 'Mill Road'];
        self::get(\Doctrine\ORM\EntityManagerInterface::class)->flush();
        foreach (['V-1', 'fenw', 'timb', 'TN-5', 'mill'] as $q) {
            self::assertSame(['V-1'], $pick('party', $q), $q);
        }
        self::assertSame([], $pick('party', '%'));
        self::assertContains('5000', $pick('account', 'mater'));
        self::assertNotContains('2100', $pick('account', '2'), 'control accounts are not offered');
        self::assertSame(['P8'], $pick('tax_code', 'P8'));
        self::assertSame([], $pick('tax_code', 'S8'), 'sales codes are not for purchases');
        $this->db()->executeStatement("UPDATE party SET retired = 1 WHERE code = 'V-1'");
        self::assertSame([], $pick('party', 'V-1'));
        self::assertContains('party', self::refusedFields(fn () => $this->invoice(Side::Payables, '1.00')));
    }

    public function testSettingsAndPeriods(): void
    {
        $refused = $this->post('/TEST/setup', '/TEST/setup', [
            'tolerance_amount' => '-1',
            'look_alike_days' => 'ten',
            'date_order' => 'year',
        ]);
        self::assertSame(422, $this->browser->getResponse()->getStatusCode());
        self::assertSame(3, $refused->filter('.wrong')->count());
        $this->post('/TEST/setup', '/TEST/setup', ['date_order' => 'day_month', 'discount_base' => 'net']);
        $id = $this->post('/TEST/payables/invoice', '/TEST/payables/invoice', [
            'party' => 'V-1',
            'number' => 'D',
            'document_date' => '3/6',
            'lines' => [['account' => '5000', 'amount' => '100', 'tax_code' => 'P8']],
        ]);
        self::assertStringContainsString(
            '2.00 discount until 13 Jun 2026',
            $id->filter('.said-done')->text(),
            'day before month, discount on the net',
        );
        $period = (int) $this->db()->fetchOne(
            "SELECT id FROM period WHERE company_id = ? AND first_day = '2026-06-01'",
            [$this->clerk->companyId],
        );
        self::assertStringContainsString(
            'Locked 2026/06 for payables',
            $this->post('/TEST/close', '/TEST/close/lock', [
                'period' => (string) $period,
                'which' => 'payables',
                'is' => 'open',
                'why' => 'the month is done',
            ])
                ->filter('.said-done')
                ->text(),
        );
        $locked = $this->post('/TEST/payables/invoice', '/TEST/payables/invoice', [
            'party' => 'V-1',
            'number' => 'E',
            'document_date' => '3/6',
            'lines' => [['account' => '5000', 'amount' => '1']],
        ]);
        self::assertStringContainsString('choose a date from 1 Jul 2026 on', $locked->filter('.said-refused')->text());
    }

    public function testHoldReleaseReverseAndVoidFromTheDocumentsPage(): void
    {
        $id = $this->invoice(Side::Payables, '500.00', ['number' => 'H-1']);
        $do = fn (int $document, string $action, string $reason = ''): string => $this->post(
            '/TEST/payables/document/'.$document,
            '/TEST/payables/document/'.
                $document.
                match ($action) {
                    'reverse', 'void' => '/undo',
                    'release' => '/release',
                    default => '/change',
                },
            ['_action' => $action, 'reason' => $reason],
        )
            ->filter('.said-done, .said-refused')
            ->text();
        self::assertStringContainsString('Say why', $do($id, 'hold'));
        self::assertStringContainsString('is held', $do($id, 'hold', 'two short'));
        self::assertStringContainsString(
            'two short',
            $this->page('/TEST/payables/documents?state=held')->filter('table.list')->text(),
        );
        self::assertStringContainsString('is released', $do($id, 'release'));
        $payment = $this->money(
            Side::Payables,
            50000,
            [new PlacementRequest($this->itemOf($id), 50000)],
            [],
            self::DAY,
            \Nelbix\Core\Ledger\DocumentKind::Payment,
        );
        self::assertStringContainsString('Say why it is reversed', $do($id, 'reverse'));
        self::assertStringContainsString('Say what happened', $do($payment, 'void'));
        self::assertStringContainsString('undo that settlement first', $do($id, 'reverse', 'twice'));
        self::assertStringContainsString('is void as of 15 Jun 2026', $do($payment, 'void', 'lost'));
        self::assertSame(50000, $this->open($this->itemOf($id)));
        self::assertStringContainsString(
            // not on its own day, 10 June: the payment that was voided on the 15th had settled it until then
            'Reversed VI-26-00001 with VI-26-00002, dated 15 Jun 2026',
            $do($id, 'reverse', 'entered twice'),
        );
        self::assertStringContainsString('already reversed', $do($id, 'reverse', 'entered twice'));
        $wire = $this->money(Side::Payables, 700, [], [], self::DAY, \Nelbix\Core\Ledger\DocumentKind::Payment);
        self::assertCount(
            2,
            $this->page('/TEST/payables/document/'.$wire)->filter('#take-back input[type=radio]'),
            'money that was sent elsewhere may have come back, or was typed by mistake',
        );
        // one of the two is offered: what was typed by mistake is reversed, a check is voided
        $page = $this->page('/TEST/payables/document/'.$this->invoice(Side::Payables, '5.00', ['number' => 'H-2']));
        self::assertSame('reverse', $page->filter('#take-back [name=_action]')->attr('value'));
        self::assertCount(0, $page->filter('#take-back [name=date]'));
    }

    /** @return iterable<string, array{string, string}> */
    public static function exports(): iterable
    {
        yield 'open items' => [
            '/TEST/payables/items?format=csv',
            'party,name,document,their_number,kind,document_date,due,currency,original,open,open_base',
        ];
        yield 'vendors' => ['/TEST/payables/parties?format=csv', 'code,name,city,open,overdue'];
        yield 'aging' => [
            '/TEST/payables/aging?format=csv',
            'party,name,not_due,1–30,31–60,61–90,"over 90",credits,prepayments,total',
        ];
        yield 'tie-out' => [
            '/TEST/close/tie-out?format=csv',
            'account,name,ledger,items,difference,since,entry,date,amount,why',
        ];
        yield 'trial balance' => ['/TEST/close/trial-balance?format=csv', 'account,name,opening,debit,credit,closing'];
    }

    #[DataProvider('exports')]
    public function testExports(string $path, string $header): void
    {
        $this->db()->executeStatement("UPDATE party SET name = '=1+2' WHERE code = 'V-1'");
        $this->invoice(Side::Payables, '1234.50');
        $this->browser->request('GET', $path);
        $csv = $this->browser->getInternalResponse()->getContent();
        self::assertStringStartsWith($header."\r\n", $csv);
        self::assertStringContainsString('1234.50', $csv);
        self::assertStringNotContainsString(',=1+2', $csv, 'no formulas for a spreadsheet to run');
        $this->browser->request('GET', $path.'&mark=1');
        self::assertSame("\u{feff}".$csv, $this->browser->getInternalResponse()->getContent());
        // the same on paper: whose it is, as of when, by whom, and on which page of how many
        $this->browser->request('GET', str_replace('csv', 'pdf', $path));
        $pdf = new Process(['pdftotext', '-layout', '-', '-']);
        $pdf->setInput($this->browser->getInternalResponse()->getContent());
        $text = $pdf->mustRun()->getOutput();
        foreach (['1,234.50', 'printed', 'by Controller', 'page 1 of 1', 'books’ day 15 Jun 2026'] as $part) {
            self::assertStringContainsString($part, $text);
        }
    }

    /** What does not go on paper is said, and nothing is cut off. */
    public function testAListThatIsTooLongForPaperSaysSo(): void
    {
        $file = self::get(\Nelbix\App\Platform\ListFile::class);
        $request = new \Symfony\Component\HttpFoundation\Request(['format' => 'pdf']);
        self::assertSame(
            ['format'],
            self::refusedFields(fn () => $file->answer($request, 'x', ['a'], array_fill(0, 1001, ['1']))),
        );
    }

    /** A cell that a spreadsheet would take for a formula is text; a number is none, whatever its sign. */
    public function testCellsThatBeginLikeAFormulaAreQuoted(): void
    {
        foreach (['=1+2', ' =1+2', "\t=1", '+1', '@x', '-1+cmd', '-x', ' -1+1'] as $name) {
            $this->db()->executeStatement("UPDATE party SET name = ? WHERE code = 'V-1'", [$name]);
            $this->browser->request('GET', '/TEST/payables/parties?format=csv');
            $lines = explode("\r\n", $this->browser->getInternalResponse()->getContent());
            $row = str_getcsv($lines[1] ?? '', ',', '"', '');
            self::assertContains("'".$name, $row, $name);
        }
        $this->invoice(Side::Payables, '5.00', ['kind' => 'credit_note']);
        $this->browser->request('GET', '/TEST/payables/items?format=csv');
        self::assertStringContainsString(',-5.00', $this->browser->getInternalResponse()->getContent());
    }

    /** A page makes at most about a dozen queries of its own, however much data there is. */
    public function testPagesMakeFewQueries(): void
    {
        $paths = [
            '/TEST',
            '/TEST/payables/items',
            '/TEST/payables/items?as_of=2026-06-12',
            '/TEST/payables/parties',
            '/TEST/payables/aging',
            '/TEST/close',
            '/TEST/close/tie-out',
            '/TEST/close/revaluation',
            '/TEST/close/journal',
            '/TEST/bank/outlook',
            '/TEST/close/rates',
            '/TEST/close/gains',
            '/TEST/close/trial-balance',
            '/TEST/close/results',
            '/TEST/close/balances',
            '/TEST/close/entries',
            '/TEST/close/analysis',
            '/TEST/close/tax',
            '/TEST/close/withheld',
            '/TEST/close/history',
            '/TEST/payables/figures',
            '/TEST/payables/proposal',
            '/TEST/payables/documents?state=posted',
            '/TEST/receivables/receipt?party=C-1',
        ];
        /** @return array<string, int> */
        $count = function () use ($paths): array {
            /** @var array<string, int> $counts */
            $counts = [];
            foreach ($paths as $path) {
                $this->page($path); // warm
                $before = (int) ($this->db()->fetchAssociative("SHOW SESSION STATUS LIKE 'Com_select'")['Value'] ?? 0);
                $this->page($path);
                $counts[$path] =
                    (int) ($this->db()->fetchAssociative("SHOW SESSION STATUS LIKE 'Com_select'")['Value'] ?? 0) -
                    $before;
            }

            return $counts;
        };
        $this->invoice(Side::Payables, '10.00');
        $this->invoice(Side::Receivables, '10.00');
        $few = $count();
        for ($n = 0; $n < 15; ++$n) {
            $this->invoice(Side::Payables, '10.00');
            $this->invoice(Side::Receivables, '10.00');
        }
        foreach ($count() as $path => $queries) {
            self::assertLessThanOrEqual($few[$path] + 1, $queries, $path.' makes more queries with more data');
            self::assertLessThanOrEqual(15, $queries, $path);
        }
    }

    /** What bounced is dated on the day it bounced, and the history has the person's own words. */
    public function testAReceiptBouncesOnItsDay(): void
    {
        $invoice = $this->invoice(Side::Receivables, '80.00');
        $receipt = $this->money(
            Side::Receivables,
            8000,
            [new PlacementRequest($this->itemOf($invoice), 8000)],
            [],
            self::DAY,
            \Nelbix\Core\Ledger\DocumentKind::Receipt,
        );
        $page = '/TEST/receivables/document/'.$receipt;
        self::assertCount(
            2,
            $this->page($page)->filter('#take-back [name=_action]'),
            'it bounced, or it was a mistake',
        );
        $said = fn (string $date): string => $this->post($page, $page.'/undo', [
            '_action' => 'void',
            'date' => $date,
            'reason' => 'no funds',
        ])
            ->filter('.said-done, .said-refused')
            ->text();
        self::assertStringContainsString('cannot be dated before', $said('6/14'));
        self::assertStringContainsString('is not a date', $said('soon'));
        self::assertStringContainsString('bounced as of 17 Jun 2026', $said('6/17'));
        self::assertSame(
            ['no funds'],
            $this->db()->fetchFirstColumn(
                "SELECT detail FROM history WHERE subject = 'document' AND subject_id = ? AND action = 'bounced'",
                [$receipt],
            ),
        );
    }

    /** A settlement is undone on a day that may be chosen; what is said goes into the history, and no more. */
    public function testASettlementIsUndoneWithADayAndAReason(): void
    {
        $invoice = $this->invoice(Side::Payables, '60.00', ['number' => 'U-1']);
        $payment = $this->money(
            Side::Payables,
            6000,
            [new PlacementRequest($this->itemOf($invoice), 6000)],
            [],
            self::DAY,
            \Nelbix\Core\Ledger\DocumentKind::Payment,
        );
        $settlement = (int) $this->db()->fetchOne('SELECT MAX(id) FROM settlement');
        $said = fn (string $date): string => $this->post(
            '/TEST/payables/document/'.$payment,
            '/TEST/payables/settlement/'.$settlement.'/undo',
            ['document' => $payment, 'date' => $date, 'reason' => 'the wrong invoice'],
        )
            ->filter('.said-done, .said-refused')
            ->text();
        self::assertStringContainsString('cannot be undone before', $said('6/1'));
        self::assertStringContainsString('undone as of 16 Jun 2026', $said('6/16'));
        self::assertSame(
            'dated 16 Jun 2026: the wrong invoice',
            $this->db()->fetchOne("SELECT detail FROM history WHERE action = 'settlement undone'"),
        );
    }

    /** Of instalments every day is said, in the message and in the head of the document. */
    public function testEveryInstalmentIsSaid(): void
    {
        self::get(\Nelbix\App\Setup\SaveTerm::class)->save($this->clerk, [
            'code' => 'I3',
            'text' => 'in three parts',
            'use' => 'both',
            'instalments' => '30@30 30@60 40@90',
        ]);
        $page = $this->post('/TEST/payables/invoice', '/TEST/payables/invoice', [
            'party' => 'V-1',
            'number' => 'P-1',
            'document_date' => '2026-06-01',
            'terms' => 'I3',
            'lines' => [['account' => '5000', 'amount' => '1000.01']],
            '_action' => 'post',
        ]);
        $days = 'Due 1 Jul 2026 300.00, 31 Jul 2026 300.00, 30 Aug 2026 400.01.';
        self::assertStringContainsString($days, $page->filter('.said-done')->text());
        self::assertStringContainsString(
            '1 Jul 2026 300.00, 31 Jul 2026 300.00, 30 Aug 2026 400.01',
            $page->filter('dl.facts')->first()->text(),
        );
    }

    /** Whoever puts a document right sees its paper beside the form. */
    public function testThePaperStandsBesideWhatIsPutRight(): void
    {
        $id = $this->invoice(Side::Payables, '10.00', ['number' => 'P-9']);
        self::get(\Nelbix\App\Platform\FileStore::class)->keep(
            $this->clerk,
            'paper',
            $id,
            'scan.png',
            (string) base64_decode(
                'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
                true,
            ),
            ['image/png'],
        );
        $page = $this->page('/TEST/payables/document/'.$id.'/put-right');
        self::assertStringContainsString('scan.png', $page->filter('#papers figure')->text());
        self::assertCount(0, $page->filter('[name="paper[]"]'), 'it goes along by itself');
    }
}
