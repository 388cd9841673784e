<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\HowTakenBack;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Money\AskPrepayment;
use Nelbix\App\Money\Contra;
use Nelbix\App\Money\PrepaymentRequests;
use Nelbix\App\Money\RequestRefund;
use Nelbix\App\Parties\Party;
use Nelbix\App\Parties\SaveParty;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** Prepayments from the request to the invoice they are placed on, with the tax that is owed of them. */
final class PrepaymentTest extends ScreenCase
{
    private const PAGE = '/TEST/receivables/prepayments';

    protected function setUp(): void
    {
        parent::setUp();
        $this->db()->executeStatement("UPDATE tax_code SET rate = 20, taxes_prepayments = 1 WHERE code = 'S8'");
        self::get(EntityManagerInterface::class)->clear();
        self::get(CodeBook::class)->reset();
    }

    /** @param array<string, string> $more */
    private function ask(array $more = []): int
    {
        return self::get(AskPrepayment::class)->ask(
            $this->clerk,
            ['party' => 'C-1', 'amount' => '1200', 'tax_code' => 'S8', 'text' => 'new mast', ...$more],
            null,
        );
    }

    private function receive(string $amount, int $asked, string $key): string
    {
        return $this->postedOnBoard(
            'receipt',
            [
                'amount' => $amount,
                'kind' => 'prepayment',
                'kind_tax' => 'S8',
                'asked' => 0 === $asked ? '' : (string) $asked,
                'look_alike_reason' => 'another',
                '_key' => $key,
            ],
            'receivables',
        );
    }

    private function last(): int
    {
        return (int) $this->db()->fetchOne('SELECT MAX(id) FROM document');
    }

    /** @return list<int> customer prepayments, tax on them, output tax, receivables */
    private function balances(): array
    {
        return array_map($this->balance(...), ['2150', '2155', '2200', '1200']);
    }

    private function place(int $prepayment, int $invoice, string $amount, string $key): string
    {
        return $this->postedOnBoard(
            'settle',
            ['placed' => [$prepayment => $amount, $invoice => $amount], '_key' => $key],
            'receivables',
        );
    }

    public function testFromTheRequestToTheInvoice(): void
    {
        $said = $this->post(self::PAGE, self::PAGE, [
            'party' => 'C-1',
            'amount' => '1200',
            'tax_code' => 'S8',
            'text' => 'new mast',
            'pay_by' => '2026-06-30',
            '_key' => 'q',
        ]);
        self::assertStringContainsString(
            'Asked Gannet Sailing School for 1,200.00 USD by 30 Jun 2026: PQ-26-00001',
            $said->filter('.said-done')->text(),
        );
        self::assertSame([0, 0, 0, 0], $this->balances(), 'a request is in no books');
        $link = $said->filter('.row-acts a')->attr('href');
        $board = $this->page((string) $link);
        self::assertSame('1,200.00', $board->filter('#amount')->attr('value'));
        $asked = (int) $this->db()->fetchOne('SELECT id FROM prepayment_request');
        self::assertSame((string) $asked, $board->filter('select[name=asked] option[selected]')->attr('value'));

        $this->receive('1200', $asked, 'a');
        // 200.00 of the 1,200.00 is tax, owed from the day the money came
        self::assertSame([-120000, 20000, -20000, 0], $this->balances());
        self::assertSame(
            'received',
            self::get(PrepaymentRequests::class)->one($this->clerk->companyId, $asked)['state'] ?? '',
        );
        $prepayment = $this->itemOf($this->last());

        $invoice = $this->itemOf(
            $this->invoice(Side::Receivables, '900.00', [
                'terms' => 'N30',
                'lines' => [['account' => '4000', 'amount' => '750.00', 'tax_code' => 'S8']],
            ]),
        );
        self::assertSame([-120000, 20000, -35000, 90000], $this->balances());
        $this->place($prepayment, $invoice, '300', 'p1');
        self::assertSame(
            [-90000, 15000, -30000, 60000],
            $this->balances(),
            'a quarter placed, a quarter of the tax back',
        );
        $this->place($prepayment, $invoice, '600', 'p2');
        self::assertSame([-30000, 5000, -20000, 0], $this->balances());
        // undone in the other order it still adds up
        $first = (int) $this->db()->fetchOne('SELECT MIN(settlement_id) FROM prepaid_tax');
        self::get(UndoSettlement::class)->undo($this->clerk, $first);
        self::assertSame([-60000, 10000, -25000, 30000], $this->balances());
    }

    public function testWhatIsGivenBackTakesItsTaxBack(): void
    {
        $this->receive('1200', 0, 'a');
        $prepayment = $this->itemOf($this->last());
        self::get(RequestRefund::class)->request(
            $this->clerk,
            $prepayment,
            120000,
            Day::of(self::DAY),
            'the boat was sold',
        );
        self::assertSame([0, 0, 0, 0], $this->balances());
        self::assertSame(-120000, $this->balance('2160'));
    }

    public function testABounceTakesTheTaxBackOnceAndTheRequestIsOpenAgain(): void
    {
        $asked = $this->ask();
        $this->receive('1200', $asked, 'a');
        $receipt = $this->last();
        $invoice = $this->itemOf($this->invoice(Side::Receivables, '900.00', ['terms' => 'N30']));
        $this->place($this->itemOf($receipt), $invoice, '300', 'p');
        self::get(ReverseDocument::class)->event(
            $this->clerk,
            $receipt,
            Day::of(self::DAY),
            HowTakenBack::Bounced,
            'no funds',
        );
        self::assertSame([0, 0, 0, 90000], $this->balances());
        self::assertSame(
            'open',
            self::get(PrepaymentRequests::class)->one($this->clerk->companyId, $asked)['state'] ?? '',
        );
        $this->receive('1200', $asked, 'b');
        self::assertSame([-120000, 20000, -20000, 90000], $this->balances());
    }

    public function testOnlyThePrepaidPartOfAReceiptIsTaxed(): void
    {
        $invoice = $this->itemOf($this->invoice(Side::Receivables, '500.00', ['terms' => 'N30']));
        $this->postedOnBoard(
            'receipt',
            [
                'amount' => '740',
                'placed' => [$invoice => '500'],
                'kind' => 'prepayment',
                'kind_tax' => 'S8',
                '_key' => 'a',
            ],
            'receivables',
        );
        self::assertSame([-24000, 4000, -4000, 0], $this->balances());
    }

    public function testWhatMayNotBe(): void
    {
        foreach (
            [
                'amount' => [['amount' => '0'], 'above zero'],
                'pay_by' => [['pay_by' => '2026-06-14'], 'from 15 Jun 2026 on'],
                'text' => [['text' => ''], 'what the prepayment is for'],
                'tax_code' => [['tax_code' => 'P8'], 'for a purchase'],
                'party' => [['party' => 'V-1'], 'no customer'],
            ] as $field => [$more, $why]
        ) {
            self::assertStringContainsString($why, self::said(fn () => $this->ask($more)), $field);
        }
        $asked = $this->ask();
        $said = self::said(fn () => self::get(AskPrepayment::class)->withdraw($this->clerk, $asked, ''));
        self::assertStringContainsString('Say why', $said);
        self::get(AskPrepayment::class)->withdraw($this->clerk, $asked, 'they bought elsewhere');
        self::assertStringContainsString('PQ-26-00001 is withdrawn', $this->receive('1200', $asked, 'a'));
        self::assertSame([0, 0, 0, 0], $this->balances(), 'all or nothing');
        $paid = $this->ask();
        $this->receive('1200', $paid, 'b');
        self::assertStringContainsString('PQ-26-00002 is received', $this->receive('1200', $paid, 'c'));
        $this->browser->request('GET', self::PAGE."/$paid/request.pdf");
        self::assertStringStartsWith('%PDF', (string) $this->browser->getResponse()->getContent());
    }

    /** The vendor's side stands first in a set-off; the tax of the customer's prepayment goes back all the same. */
    public function testASetOffGivesTheTaxOfAPrepaymentBack(): void
    {
        $entities = self::get(EntityManagerInterface::class);
        $this->receive('120.00', 0, 'set-off');
        $prepayment = (int) $this->db()->fetchOne("SELECT id FROM open_item WHERE kind = 'prepayment'");
        $invoice = $this->itemOf(
            $this->invoice(Side::Receivables, '750.00', [
                'lines' => [['account' => '4000', 'amount' => '750.00', 'tax_code' => 'S8']],
            ]),
        );
        $owes = $this->itemOf($this->invoice(Side::Payables, '780.00'));
        self::assertSame([-12_000, 2_000, -17_000, 90_000], $this->balances());
        $party = static fn (string $code): Party => $entities
            ->getRepository(Party::class)
            ->findOneBy(['code' => $code]) ?? self::fail();
        self::get(SaveParty::class)->link($this->clerk, $party('V-1')->id(), $party('C-1')->id());
        $entities->clear();
        $contra = self::get(Contra::class)->post(
            $this->clerk,
            $party('C-1'),
            [$owes => 78_000, $invoice => 90_000, $prepayment => -12_000],
            Day::of(self::DAY),
            '',
        );
        self::assertSame([0, 0, -15_000, 0], $this->balances());
        self::get(ReverseDocument::class)->reverse($this->clerk, $contra, 'not meant');
        self::assertSame([-12_000, 2_000, -17_000, 90_000], $this->balances());
    }
}
