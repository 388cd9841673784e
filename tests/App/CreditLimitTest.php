<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Import\ImportFile;
use Nelbix\App\Money\Bounce;
use Nelbix\App\Parties\ReleaseCredit;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** Over its limit a customer is warned of, or not invoiced until somebody else releases it. */
final class CreditLimitTest extends ScreenCase
{
    private int $customer;

    protected function setUp(): void
    {
        parent::setUp();
        $this->customer = (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'C-1'");
        self::get(SaveParty::class)->save(
            $this->clerk,
            Side::Receivables,
            [
                'code' => 'C-1',
                'name' => 'Gannet Sailing School',
                'terms' => 'N30',
                'default_account' => '4000',
                'credit_limit' => '1000.00',
            ],
            $this->customer,
        );
    }

    private function blocks(): void
    {
        self::get(Settings::class)->keep($this->clerk->companyId, ['credit_limit' => 'blocks']);
    }

    public function testItWarnsUnlessTheCompanySaysItBlocks(): void
    {
        $this->invoice(Side::Receivables, '900.00');
        $form = $this->post('/TEST/receivables/invoice', '/TEST/receivables/invoice/live', [
            'party' => 'C-1',
            'document_date' => '.',
            'lines' => [['account' => '4000', 'amount' => '150']],
        ])->html();
        self::assertStringContainsString('Over the credit limit by 50.00', $form);
        self::assertStringContainsString('It can be posted all the same.', $form);
        $this->invoice(Side::Receivables, '150.00');
        $this->blocks();
        self::assertStringContainsString(
            'Over the credit limit by 50.01 USD with this.',
            self::said(fn () => $this->invoice(Side::Receivables, '0.01')),
        );
        $this->invoice(Side::Receivables, '50.00', ['kind' => 'credit_note']);
        self::assertStringContainsString(
            'by 0.01',
            self::said(fn () => $this->invoice(Side::Receivables, '0.01')),
            'exactly at it is within',
        );
        $this->money(Side::Receivables, 10000);
        self::assertSame(
            'done',
            self::said(fn () => $this->invoice(Side::Receivables, '100.00')),
            'money that came makes room',
        );
        $this->invoice(Side::Payables, '5000.00');
    }

    /** A check that comes back, and what is charged for being late, are owed however much that is. */
    public function testWhatComesOfADebtGivesNoCredit(): void
    {
        $this->blocks();
        $this->invoice(Side::Receivables, '1000.00');
        $check = $this->money(Side::Receivables, 100000);
        $this->invoice(Side::Receivables, '1000.00');
        $note = self::get(Bounce::class)->record($this->clerk, $check, Day::of('2026-06-15'), 'no funds', 2500, true);
        self::assertNotNull($note, 'over the limit, and charged on all the same');
        self::assertSame(
            'done',
            self::said(
                fn () => $this->invoice(Side::Receivables, '12.00', [
                    'kind' => 'finance_charge',
                    'lines' => [['account' => '', 'amount' => '12.00']],
                ]),
            ),
        );
        self::assertStringContainsString(
            'Over the credit limit by 1037.01',
            self::said(fn () => $this->invoice(Side::Receivables, '0.01', ['kind' => 'debit_note'])),
            'what somebody enters is credit',
        );
    }

    public function testAFileIsRefusedAsAWhole(): void
    {
        $this->blocks();
        $csv =
            "party,number,document_date,account,amount\nC-1,CI-A,2026-06-10,4000,600.00\nC-1,CI-B,2026-06-11,4000,600.00\n";
        $taken = self::get(ImportFile::class)->import($this->clerk, 'customer-invoices', $csv);
        self::assertStringContainsString(
            'Over the credit limit by 200.00',
            implode(' ', array_column($taken['errors'], 'message')),
            'both together are',
        );
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM open_item'));
    }

    public function testSomebodyElseReleasesItForAWhile(): void
    {
        $this->blocks();
        $release = self::get(ReleaseCredit::class);
        $refused = fn (int $amount, string $until, string $why): string => self::said(
            fn () => $release->release($this->approver, $this->customer, $amount, Day::of($until), $why),
        );
        self::assertStringContainsString('Say why', $refused(50000, '2026-06-30', ''));
        self::assertStringContainsString('from today on', $refused(50000, '2026-06-14', 'season'));
        self::assertStringContainsString('at most 90 days', $refused(50000, '2026-12-31', 'season'));
        self::assertStringContainsString('above zero', $refused(-1, '2026-06-30', 'season'));
        self::assertSame('done', $refused(50000, '2026-06-15', 'season'));
        self::assertSame('done', self::said(fn () => $this->invoice(Side::Receivables, '1500.00')));
        self::assertStringContainsString('by 0.01', self::said(fn () => $this->invoice(Side::Receivables, '0.01')));
        // the clerk does not release it, whatever the page says
        $this->as('receivables');
        $page = '/TEST/receivables/party/'.$this->customer;
        self::assertSame(0, $this->page($page)->filter('#credit-amount')->count());
        $token = $this->page($page)->filter('input[name=_token]')->attr('value');
        $this->browser->request('POST', $page.'/credit', [
            '_token' => $token,
            'amount' => '1',
            'until' => '.',
            'reason' => 'x',
        ]);
        self::assertSame(403, $this->browser->getResponse()->getStatusCode());
        // its day is over
        $this->db()->executeStatement("UPDATE credit_release SET until_on = '2026-06-14'");
        self::assertStringContainsString('by 500.01', self::said(fn () => $this->invoice(Side::Receivables, '0.01')));
        self::assertSame('done', $refused(0, '2026-06-15', 'season is over'));
    }

    public function testSeveralCreditsAreGivenBackUpToWhatIsLeft(): void
    {
        $this->invoice(Side::Receivables, '100.00');
        $first = $this->itemOf($this->invoice(Side::Receivables, '70.00', ['kind' => 'credit_note']));
        $second = $this->itemOf($this->money(Side::Receivables, 5000));
        $path = '/TEST/receivables/party/'.$this->customer.'/refund';
        $page = $this->page($path);
        self::assertStringContainsString('owes 100.00 USD', $page->text());
        self::assertSame(
            '20.00',
            $page->filter("input[name=\"amount[$first]\"]")->attr('value'),
            '120.00 less 100.00 owed',
        );
        $panel = $this->post($path, $path.'/entry', ['amount' => [$first => '70', $second => '51']]);
        self::assertStringContainsString('2160', $panel->text());
        self::assertStringContainsString('70.00', $panel->text());
        self::assertStringContainsString(
            '50.00 USD of',
            $panel->filter('.wrong')->text(),
            'what cannot be is said there',
        );
        $wrong = $this->post($path, $path, ['amount' => [$first => '70.01', $second => '50'], '_key' => 'a']);
        self::assertStringContainsString('70.00 USD of CC-26-00001 is open', $wrong->filter('.said-refused')->text());
        self::assertSame([-7000, -5000], [$this->open($first), $this->open($second)], 'all or nothing');
        $said = $this->post($path, $path, [
            'amount' => [$first => '70', $second => '50'],
            'reason' => 'they closed',
            '_key' => 'b',
        ]);
        self::assertStringContainsString('Refund requested.', $said->filter('.said-done')->text());
        self::assertSame([0, 0, -12000], [$this->open($first), $this->open($second), $this->balance('2160')]);
        // a run narrowed to the customer pays both together
        $run = $this->page('/TEST/payables/proposal?vendors=C-1&method=all&due_through=.');
        self::assertStringContainsString('120.00', $run->text());
    }
}
