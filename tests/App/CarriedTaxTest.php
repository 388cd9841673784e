<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\ExchangeRate;
use Nelbix\App\Money\Claim;
use Nelbix\App\Money\ClaimKind;
use Nelbix\App\Money\ClaimRequest;
use Nelbix\App\Money\DecideWriteOff;
use Nelbix\App\Money\MakeClaim;
use Nelbix\App\Money\WriteOff;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Settlement\AdjustmentKind;
use PHPUnit\Framework\Attributes\DataProvider;

/**
 * An item that replaces another carries its taxes on, in proportion and at the origin's rate. Source: rules.md, Transfers; the figures are
 * worked by hand: 20 % in 240.00 is 40.00.
 */
final class CarriedTaxTest extends ScreenCase
{
    protected function setUp(): void
    {
        parent::setUp();
        $this->db()->executeStatement("UPDATE tax_code SET rate = 20, bad_debt_corrects_tax = 1 WHERE code = 'S8'");
        self::get(EntityManagerInterface::class)->clear();
        self::get(CodeBook::class)->reset();
    }

    private function owed(string $net): int
    {
        return $this->itemOf(
            $this->invoice(Side::Receivables, $net, [
                'terms' => 'N30',
                'lines' => [['account' => '4000', 'amount' => $net, 'tax_code' => 'S8']],
            ]),
        );
    }

    /** @return iterable<string, array{bool, string}> whether the allowance bears it, and its account */
    public static function accounts(): iterable
    {
        yield 'the expense' => [false, '6900'];
        yield 'the allowance' => [true, '1245'];
    }

    /** What the panel shows when it is asked for is what stands in the books once somebody else has approved. */
    #[DataProvider('accounts')]
    public function testAWriteOffAboveTheLimitPostsWhatWasShown(bool $allowance, string $account): void
    {
        $item = $this->owed('200.00');
        $path = "/TEST/receivables/item/$item/write-off";
        $fields = ['amount' => '240', 'to' => $allowance ? 'allowance' : 'bad', 'reason' => 'closed', '_key' => 'k'];
        $this->post($path, $path, $fields);
        $claim = self::get(EntityManagerInterface::class)->getRepository(Claim::class)->findOneBy([]) ?? self::fail();
        self::assertSame(0, $this->balance($account), 'nothing is posted before it is decided');
        self::get(DecideWriteOff::class)->decide($this->approver, (int) $claim->id(), $claim->version, true);
        self::assertSame([20_000, 0, 0], [$this->balance($account), $this->balance('2200'), $this->balance('1200')]);
    }

    public function testADisputedClaimCarriesItsPart(): void
    {
        self::get(Settings::class)->keep($this->clerk->companyId, ['write_off_approval_above' => '5000.00']);
        $item = $this->owed('1000.00');
        $this->claim($item, 24_000);
        $claimed = (int) $this->db()->fetchOne("SELECT id FROM open_item WHERE kind = 'claim' AND open > 0");
        $this->writeOff($claimed, 24_000, null);
        self::assertSame([20_000, -16_000], [$this->balance('6900'), $this->balance('2200')]);
        self::assertSame(96_000, $this->balance('1200'));
    }

    /** A claim asked to be written off is a claim of a claim: the chain leads to the invoice. */
    public function testAClaimOfAClaimLeadsToTheInvoice(): void
    {
        $item = $this->owed('1000.00');
        $this->claim($item, 24_000);
        $claimed = (int) $this->db()->fetchOne("SELECT id FROM open_item WHERE kind = 'claim' AND open > 0");
        $this->writeOff(
            $claimed,
            12_000,
            self::get(Chart::class)->role($this->clerk->companyId, AccountRole::BadDebtAllowance),
        );
        $claim =
            self::get(EntityManagerInterface::class)
                ->getRepository(Claim::class)
                ->findOneBy(['writeOffAs' => AdjustmentKind::BadDebt]) ?? self::fail();
        self::get(DecideWriteOff::class)->decide($this->approver, (int) $claim->id(), $claim->version, true);
        self::assertSame([10_000, -18_000], [$this->balance('1245'), $this->balance('2200')]);
    }

    /** 100.00 EUR and 20 % at 1.10, claimed, written off when the rate is 1.05: the tax is corrected at the invoice's rate. */
    public function testTheTaxIsCorrectedAtTheOriginsRate(): void
    {
        self::get(Settings::class)->keep($this->clerk->companyId, ['write_off_approval_above' => '5000.00']);
        $entities = self::get(EntityManagerInterface::class);
        foreach (['2026-06-01' => '1.10', self::DAY => '1.05'] as $day => $rate) {
            $entities->persist(new ExchangeRate($this->clerk->companyId, Day::of($day), 'EUR', 'USD', $rate));
        }
        $entities->flush();
        $item = $this->itemOf(
            $this->invoice(Side::Receivables, '100.00', [
                'currency' => 'EUR',
                'terms' => 'N30',
                'lines' => [['account' => '4000', 'amount' => '100.00', 'tax_code' => 'S8']],
            ]),
        );
        self::assertSame(-2_200, $this->balance('2200'));
        $this->claim($item, 12_000);
        $claimed = (int) $this->db()->fetchOne("SELECT id FROM open_item WHERE kind = 'claim' AND open > 0");
        $this->writeOff($claimed, 12_000, null);
        // 100.00 at 1.05, tax 20.00 at 1.10, and 132.00 leave receivables: 5.00 are lost by the rate
        self::assertSame([10_500, 0, 0, 500], array_map($this->balance(...), ['6900', '2200', '1200', '7900']));
    }

    private function claim(int $item, int $amount): void
    {
        self::get(MakeClaim::class)->make(
            $this->clerk,
            new ClaimRequest($item, $amount, ClaimKind::Disputed, 'not what was ordered'),
            Day::of(self::DAY),
        );
    }

    private function writeOff(int $item, int $amount, ?int $account): void
    {
        self::get(WriteOff::class)->write(
            $this->clerk,
            [$item => $amount],
            AdjustmentKind::BadDebt,
            $account,
            Day::of(self::DAY),
            'the business closed',
        );
    }
}
