<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Banking\OneCheck;
use Nelbix\App\Books\ChangePosted;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\DomCrawler\Crawler;

/** Payments without a proposal, refunds of vendors, and settling without money, on the one board. */
final class BoardTest extends ScreenCase
{
    /** @param array<string, mixed> $fields */
    private function pay(array $fields, string $mode = 'payment', string $side = 'payables'): string
    {
        $path = '/TEST/'.$side.'/'.$mode;

        return $this->post($path, $path, [
            'party' => 'payables' === $side ? 'V-1' : 'C-1',
            'date' => '.',
            'bank' => '1000',
            'more_than_there' => '1',
            'more_than_owed' => '1',
            ...$fields,
        ])
            ->filter('.said-done, .said-refused')
            ->text();
    }

    public function testNothingIsChosenUnaskedAndTheAmountIsWorkedOut(): void
    {
        $a = $this->itemOf($this->invoice(Side::Payables, '1000.00'));
        $b = $this->itemOf(
            $this->invoice(Side::Payables, '50.00', ['document_date' => '2026-04-01', 'terms' => 'N30']),
        );
        $page = $this->browser->request('GET', '/TEST/payables/payment?party=V-1');
        self::assertSame(
            ['', ''],
            $page->filter('input[name^="placed["]')->each(static fn ($i): string => (string) $i->attr('value')),
        );
        $live = $this->post('/TEST/payables/payment', '/TEST/payables/payment/live', [
            'party' => 'V-1',
            'date' => '.',
            'placed' => [$a => '1000', $b => '50'],
            'discount' => [$a => '20'],
        ]);
        self::assertStringContainsString('1,030.00', $live->filter('.beam-right, .beam-left')->text());
        self::assertStringContainsString(
            'Payables fell by 1,050.00',
            $this->pay([
                'placed' => [$a => '1000', $b => '50'],
                'discount' => [$a => '20'],
                'method' => 'wire',
                'number' => 'W-7',
                '_key' => 'h1',
            ]),
        );
        self::assertSame(
            [0, 0, -103000, -2000],
            [$this->open($a), $this->open($b), $this->balance('1000'), $this->balance('5900')],
        );
        $this->pay(['placed' => [$a => '1000', $b => '50'], 'discount' => [$a => '20'], '_key' => 'h1']);
        self::assertSame(-103000, $this->balance('1000'), 'the same form twice is one payment');
        self::assertSame('W-7', $this->db()->fetchOne("SELECT reference FROM document WHERE kind = 'payment'"));
    }

    /** One receipt after the other: what the pile has in common stays; what the bank calls it is there only once. */
    public function testReceiptsOneAfterTheOther(): void
    {
        $receipt = [
            'bank' => '1000',
            'date' => '14 Jun 2026',
            'amount' => '75',
            'method' => 'check',
            'reference' => 'for the mast',
            'their_reference' => 'CHK-0991',
            '_action' => 'next',
        ];
        $said = $this->pay($receipt, 'receipt', 'receivables');
        self::assertStringContainsString('Posted RC-26-00001', $said);
        $form = $this->browser->getCrawler()->filter('#receipt');
        self::assertSame(
            ['', '14 Jun 2026', '', 'check'],
            [
                $form->filter('[name=party]')->attr('value'),
                $form->filter('[name=date]')->attr('value'),
                $form->filter('[name=amount]')->attr('value'),
                $form->filter('[name=method] option[selected]')->attr('value'),
            ],
        );
        $page = $this->page('/TEST/receivables/document/'.$this->db()->fetchOne('SELECT id FROM document'))
            ->filter('main')
            ->text();
        self::assertStringContainsString('Came bycheck', $page);
        self::assertStringContainsString('bank’s reference CHK-0991', $page);

        $again = ['amount' => '80', 'their_reference' => 'chk 991'] + $receipt;
        self::assertStringContainsString('It looks like RC-26-00001', $this->pay($again, 'receipt', 'receivables'));
        self::assertSame(1, (int) $this->db()->fetchOne("SELECT COUNT(*) FROM document WHERE kind = 'receipt'"));
        self::assertStringContainsString(
            'Posted RC-26-00002',
            $this->pay(['look_alike_reason' => 'another bank'] + $again, 'receipt', 'receivables'),
        );
        self::assertStringContainsString(
            'at most 60 characters',
            (string) $this->post('/TEST/receivables/receipt', '/TEST/receivables/receipt', [
                'party' => 'C-1',
                ...$receipt,
                'their_reference' => str_repeat('9', 61),
            ])
                ->filter('#receipt')
                ->text(),
        );
    }

    /** What is said stands on the next page: nothing on it belongs to the money just posted. */
    public function testWhatIsSaidFitsThePageItStandsOn(): void
    {
        $item = $this->itemOf($this->invoice(Side::Payables, '100.00', ['terms' => 'N30']));
        $said = $this->pay(['placed' => [$item => '40'], 'method' => 'print', '_action' => 'next']);
        self::assertStringContainsString('from its page', $said);
        self::assertStringNotContainsString('this page', $said);
        $said = $this->pay(['placed' => [$item => '30'], 'method' => 'print']);
        self::assertStringContainsString('Undo the settlement on this page', $said);
    }

    /** Who paid is found by a number that the payer names, or by the amount when only one owes just that. */
    public function testThePayerIsFoundByWhatIsOwed(): void
    {
        $number = (string) $this->db()->fetchOne('SELECT number FROM document WHERE id = ?', [
            $this->invoice(Side::Receivables, '1234.50', ['terms' => 'N30']),
        ]);
        $find = function (string $q): array {
            $this->browser->request('GET', '/TEST/receivables/pick/party?q='.urlencode($q));

            return array_column(
                (array) json_decode((string) $this->browser->getResponse()->getContent(), true),
                'code',
            );
        };
        self::assertSame(['C-1'], $find($number));
        self::assertSame(['C-1'], $find('1,234.50'));
        self::assertSame(['C-1'], $find('1234.50'));
        self::assertSame([], $find('1234.51'));
        self::assertSame([], $find('12'));
        $this->invoice(Side::Receivables, '100.00', ['terms' => 'N30']);
        self::assertSame(['C-1'], $find('1334.50'), 'all that is owed');
        $this->invoice(Side::Receivables, '55.25', ['terms' => 'N30']);
        self::assertSame(['C-1'], $find('155.25'), 'two of three');
        self::assertSame([], $find('155.26'));
        foreach (['C-2', 'C-3'] as $k => $code) {
            self::get(\Nelbix\App\Parties\SaveParty::class)->save($this->clerk, Side::Receivables, [
                'code' => $code,
                'name' => $code,
                'default_account' => '4000',
            ]);
            foreach (['90', '65.25', (string) (400 + $k)] as $amount) {
                $this->invoice(Side::Receivables, $amount, ['party' => $code, 'terms' => 'N30']);
            }
        }
        self::assertSame([], $find('155.25'), 'three customers have such a sum');
        self::assertSame(['C-1'], $find('1234.50'));
        self::get(\Nelbix\App\Money\AskPrepayment::class)->ask(
            $this->clerk,
            [
                'party' => 'C-1',
                'amount' => '70',
                'text' => 'a new mast',
            ],
            null,
        );
        $asked = (string) $this->db()->fetchOne('SELECT number FROM prepayment_request');
        self::assertSame(['C-1'], $find($asked));
        $receipt = $this->money(Side::Receivables, 7000);
        $this->db()->executeStatement('UPDATE prepayment_request SET document_id = ?', [$receipt]);
        self::assertSame([], $find($asked), 'it came');
        self::get(\Nelbix\App\Books\ReverseDocument::class)->reverse($this->clerk, $receipt, 'a mistake');
        self::assertSame(['C-1'], $find($asked), 'taken back, it is open again');
    }

    /** The book gives the number; the page is made out as the payee was called then; a spoiled one is void and the next is taken. */
    public function testOneCheckIsPrintedWithoutAProposal(): void
    {
        $item = $this->itemOf($this->invoice(Side::Payables, '1000.00', ['terms' => 'N30', 'number' => 'INV-9']));
        $said = $this->pay([
            'placed' => [$item => '1000'],
            'method' => 'print',
            'reference' => 'for May',
            '_key' => 'p',
        ]);
        self::assertStringContainsString('Posted PY-26-00001', $said);
        $id = (int) $this->db()->fetchOne("SELECT id FROM document WHERE kind = 'payment'");
        /** @return list<array<string, mixed>> */
        $register = fn (): array => $this->db()->fetchAllAssociative(
            'SELECT number, state, document_id, amount, reason FROM bank_check ORDER BY number',
        );
        $check = ['number' => 1001, 'state' => 'issued', 'document_id' => $id, 'amount' => 100000, 'reason' => ''];
        self::assertSame([$check], $register());
        $this->db()->executeStatement("UPDATE party SET name = 'Somebody Else' WHERE code = 'V-1'");
        $page = self::get(OneCheck::class)->page($this->clerk, $id);
        self::assertSame(
            [1001, 'one thousand and 00/100', 'Fenwick Timber', ['INV-9', 100000]],
            [
                $page['number'],
                strtolower((string) $page['words']),
                $page['name'],
                [$page['lines'][0]['their_number'], $page['lines'][0]['pay']],
            ],
        );
        $path = '/TEST/payables/document/'.$id;
        $this->browser->request('GET', $path.'/check.pdf');
        self::assertStringStartsWith('%PDF', (string) $this->browser->getInternalResponse()->getContent());

        $spoil = fn (string $reason, int $number): string => $this->post($path, $path.'/check-spoiled', [
            'reason' => $reason,
            'number' => (string) $number,
        ])
            ->filter('.said-done, .said-refused')
            ->text();
        self::assertStringContainsString('Say what became', $spoil(' ', 1001));
        self::assertStringContainsString('check 1002 now', $spoil('torn', 1001));
        self::assertStringContainsString('load its page anew', $spoil('torn', 1001));
        self::assertSame(
            [
                array_replace($check, ['document_id' => null, 'state' => 'spoiled', 'reason' => 'torn']),
                array_replace($check, ['number' => 1002]),
            ],
            $register(),
        );
        self::assertSame(
            'check 1002 for May',
            $this->db()->fetchOne('SELECT reference FROM document WHERE id = ?', [$id]),
        );

        self::assertStringContainsString(
            'The next check of',
            $this->pay(['amount' => '5', 'method' => 'print', 'number' => '1009', 'kind' => 'unapplied']),
            'another number lies in the printer',
        );
        self::assertStringContainsString(
            'belongs to no check book',
            $this->pay(['amount' => '5', 'method' => 'print', 'number' => '7', 'kind' => 'unapplied']),
            'it would be paid by a check that nobody could print',
        );
        self::assertSame(1, (int) $this->db()->fetchOne("SELECT COUNT(*) FROM document WHERE kind = 'payment'"));
        $this->post($path, $path.'/undo', ['_action' => 'void', 'reason' => 'lost', 'date' => '.']);
        self::assertSame(['spoiled', 'voided'], array_column($register(), 'state'));
        self::assertSame(100000, $this->open($item));
        $this->browser->request('GET', $path.'/check.pdf');
        self::assertSame(404, $this->browser->getInternalResponse()->getStatusCode(), 'a void check is not printed');
    }

    public function testAHandCheckTakesItsNumberAndAPartStaysOpen(): void
    {
        $item = $this->itemOf($this->invoice(Side::Payables, '1000.00', ['terms' => 'N30']));
        self::assertStringContainsString(
            'The number of the check is missing',
            $this->pay(['amount' => '400', 'placed' => [$item => '400'], 'method' => 'hand']),
        );
        self::assertStringContainsString(
            'The next check of',
            $this->pay(['amount' => '400', 'placed' => [$item => '400'], 'method' => 'hand', 'number' => '1005']),
        );
        self::assertSame(
            0,
            (int) $this->db()->fetchOne("SELECT COUNT(*) FROM document WHERE kind = 'payment'"),
            'nothing was half posted',
        );
        self::assertStringContainsString(
            'Posted PY-26-00001',
            $this->pay(['amount' => '450', 'placed' => [$item => '400'], 'method' => 'hand', 'number' => '1001']),
        );
        self::assertSame(
            [60000, 1],
            [
                $this->open($item),
                (int) $this->db()->fetchOne(
                    "SELECT COUNT(*) FROM bank_check WHERE number = 1001 AND state = 'issued' AND amount = 45000",
                ),
            ],
        );
        self::assertStringContainsString(
            'used already',
            $this->pay(['amount' => '10', 'method' => 'hand', 'number' => '1001']),
        );
    }

    public function testHeldStoppedAndReservedAreNotPaidByHand(): void
    {
        $document = $this->invoice(Side::Payables, '100.00');
        $item = $this->itemOf($document);
        self::get(ChangePosted::class)->hold($this->clerk, $document, 'damaged');
        self::assertStringContainsString(
            'is held; nothing is placed on it',
            $this->pay(['placed' => [$item => '100']]),
        );
        self::get(ChangePosted::class)->release($this->clerk, $document);
        self::get(\Nelbix\App\Parties\SaveParty::class)->save(
            $this->clerk,
            Side::Payables,
            ['name' => 'Fenwick Timber', 'stops' => ['payment' => ['reason' => 'court order', 'ends_on' => '']]],
            (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'V-1'"),
        );
        self::assertStringContainsString(
            'No payment to Fenwick Timber: court order',
            $this->pay(['placed' => [$item => '100']]),
        );
    }

    public function testAPrepaymentAndThenSettledWithoutMoney(): void
    {
        self::assertStringContainsString(
            'is a prepayment',
            $this->pay(['amount' => '300', 'kind' => 'prepayment', 'method' => 'wire']),
        );
        self::assertSame(30000, $this->balance('1250'));
        $invoice = $this->itemOf($this->invoice(Side::Payables, '250.00', ['terms' => 'N30']));
        $credit = $this->itemOf($this->invoice(Side::Payables, '20.00', ['kind' => 'credit_note', 'number' => 'K']));
        $money = (int) $this->db()->fetchOne("SELECT id FROM open_item WHERE kind = 'prepayment'");
        self::assertStringContainsString(
            'differ by 10.00',
            $this->pay(['placed' => [$invoice => '250', $money => '220', $credit => '20']], 'settle'),
        );
        self::assertStringContainsString(
            'Settled 250.00 USD of Fenwick Timber without money',
            $this->pay(['placed' => [$invoice => '250', $money => '230', $credit => '20']], 'settle'),
        );
        self::assertSame(
            [0, 0, -7000, 7000],
            [$this->open($invoice), $this->open($credit), $this->open($money), $this->balance('1250')],
        );
        self::assertSame(0, $this->balance('2100'), 'the control account holds nothing more');
    }

    public function testWithholdingByHand(): void
    {
        $this->db()->executeStatement("UPDATE party SET withholding_percent = 10 WHERE code = 'V-1'");
        $item = $this->itemOf($this->invoice(Side::Payables, '1000.00', ['terms' => 'N30']));
        self::assertStringContainsString('Payables fell by 1,000.00', $this->pay(['placed' => [$item => '1000']]));
        self::assertSame([0, -90000, -10000], [$this->open($item), $this->balance('1000'), $this->balance('2250')]);
    }

    public function testARefundOfAVendorIsPlacedOnItsCredits(): void
    {
        $credit = $this->itemOf($this->invoice(Side::Payables, '80.00', ['kind' => 'credit_note', 'number' => 'K']));
        self::assertStringContainsString(
            'Posted RF-26-00001. Payables rose by 80.00',
            $this->pay(['amount' => '80', 'placed' => [$credit => '80']], 'refund'),
        );
        self::assertSame([0, 8000, 0], [$this->open($credit), $this->balance('1000'), $this->balance('2100')]);
        $refund = (int) $this->db()->fetchOne("SELECT id FROM document WHERE kind = 'refund'");
        self::assertSame(
            DocumentKind::Refund->value,
            $this->db()->fetchOne('SELECT kind FROM open_item WHERE document_id = ?', [$refund]),
        );
        self::assertStringContainsString(
            'more is placed than the money holds',
            $this->pay(
                [
                    'amount' => '10',
                    'placed' => [
                        $this->itemOf(
                            $this->invoice(Side::Payables, '20.00', ['kind' => 'credit_note', 'number' => 'K2']),
                        ) => '20',
                    ],
                ],
                'refund',
            ),
        );
        self::get(\Nelbix\App\Books\ReverseDocument::class)->event(
            $this->clerk,
            $refund,
            \Nelbix\Core\Calendar\Day::of(self::DAY),
            \Nelbix\App\Books\HowTakenBack::Returned,
            'refund bounced',
        );
        self::assertSame([-8000, 0], [$this->open($credit), $this->balance('1000')]);
    }

    public function testWhoMay(): void
    {
        $this->as('receivables');
        foreach (['/TEST/payables/payment', '/TEST/payables/refund', '/TEST/payables/settle'] as $path) {
            $this->browser->request('GET', $path);
            self::assertSame(403, $this->browser->getResponse()->getStatusCode(), $path);
        }
        $this->browser->request('GET', '/TEST/receivables/payment');
        self::assertSame(404, $this->browser->getResponse()->getStatusCode());
        $this->browser->request('GET', '/TEST/receivables/settle');
        self::assertSame(200, $this->browser->getResponse()->getStatusCode());
    }

    /** A customer who owes in two currencies: both are named, one is placed, and what was typed on the other is left behind. */
    public function testTwoCurrenciesOfOneParty(): void
    {
        $this->db()->executeStatement(
            <<<'SQL'
            INSERT INTO exchange_rate (company_id, valid_on, from_currency, to_currency, rate)
            VALUES (?, '2026-04-01', 'EUR', 'USD', 1.10)
            SQL
            ,
            [$this->clerk->companyId],
        );
        $usd = $this->itemOf($this->invoice(Side::Receivables, '100.00'));
        $eur = $this->itemOf($this->invoice(Side::Receivables, '80.00', ['currency' => 'EUR']));
        $live = fn (array $fields): Crawler => $this->post(
            '/TEST/receivables/receipt?party=C-1',
            '/TEST/receivables/receipt/live',
            ['party' => 'C-1', 'date' => '.', 'amount' => '80', ...$fields],
        );
        $page = $this->page('/TEST/receivables/receipt?party=C-1');
        self::assertSame(
            ['EUR 1 open, 80.00', 'USD 1 open, 100.00'],
            $page
                ->filter('.currencies label')
                ->each(static fn ($l): string => trim((string) preg_replace('/\s+/', ' ', $l->text()))),
        );
        self::assertCount(1, $page->filter('input[name="placed['.$usd.']"]'), 'the company’s own first');
        self::assertCount(0, $page->filter('input[name="placed['.$eur.']"]'));
        $other = $live(['currency' => 'EUR', 'placed' => [$usd => '50', $eur => '80']]);
        self::assertCount(1, $other->filter('input[name="placed['.$eur.']"]'));
        self::assertCount(0, $other->filter('.wrong'), $other->text());
        self::assertSame('EUR', $other->filter('[hx-swap-oob="innerHTML:#board-currency"]')->text());
        $foreign = $live(['currency' => 'XXX']);
        self::assertCount(1, $foreign->filter('input[name="placed['.$usd.']"]'), 'nonsense is the own one');
        // once only the other is open the board begins with it
        $this->money(Side::Receivables, 10000, [new PlacementRequest($usd, 10000)]);
        self::assertCount(
            1,
            $this->page('/TEST/receivables/receipt?party=C-1')->filter('input[name="placed['.$eur.']"]'),
        );
    }

    /** A row that may not be paid says why, has no field, and counts for nothing. */
    public function testARowThatMayNotBePaidSaysWhy(): void
    {
        $held = $this->invoice(Side::Payables, '50.00', ['number' => 'H-1']);
        $this->invoice(Side::Payables, '70.00', ['number' => 'H-2']);
        $this->db()->executeStatement("UPDATE document SET held_reason = 'two bolts short' WHERE id = ?", [$held]);
        $item = (int) $this->db()->fetchOne('SELECT id FROM open_item WHERE document_id = ?', [$held]);
        foreach (['payment', 'settle'] as $mode) {
            $page = $this->browser->request('GET', '/TEST/payables/'.$mode.'?party=V-1');
            $row = $page->filter('tr[data-row="'.$item.'"]');
            self::assertSame('is held', $row->attr('data-kept'));
            self::assertStringContainsString('H-1', $row->text(), 'their number stands on the row');
            self::assertCount(0, $row->filter('input'));
        }
        $form = $page->filter('#receipt')->form();
        $this->browser->request('POST', '/TEST/payables/payment/live', [
            ...$form->getPhpValues(),
            'party' => 'V-1',
            'placed' => [$item => '50'],
        ]);
        $answer = (string) $this->browser->getResponse()->getContent();
        self::assertStringContainsString('placed 0.00', $answer);
    }

    /** Amounts on the board are set alike, however they were typed. */
    public function testAmountsOfTheBoardAreSetAlike(): void
    {
        $this->invoice(Side::Payables, '3000.00', ['number' => 'A-1']);
        $item = (int) $this->db()->fetchOne('SELECT MAX(id) FROM open_item');
        $page = $this->browser->request('GET', '/TEST/payables/payment?party=V-1');
        $values = $page->filter('#receipt')->form()->getPhpValues();
        foreach (['1000+200' => '1,200.00', '1200' => '1,200.00', '12,x' => '12,x'] as $typed => $shown) {
            $this->browser->request('POST', '/TEST/payables/payment/live', [
                ...$values,
                'placed' => [$item => (string) $typed],
            ]);
            self::assertStringContainsString(
                'name="placed['.$item.']" value="'.$shown.'"',
                (string) $this->browser->getResponse()->getContent(),
            );
        }
    }
}
