<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Money\ClaimKind;
use Nelbix\App\Money\ClaimRequest;
use Nelbix\App\Money\MakeClaim;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\Receivables\AccountStatement;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Settlement\AdjustmentKind;

/** What a customer is told it owes. */
final class AccountStatementTest extends ScreenCase
{
    /**
     * @return array{opening: int, lines: list<array{day: string, number: string, what: string, due: ?string, amount: int,
     *     balance: int}>, closing: int, overdue: int}
     */
    private function stated(?string $from, string $through): array
    {
        $id = (int) $this->db()->fetchOne('SELECT id FROM party WHERE company_id = ? AND code = ?', [
            $this->clerk->companyId,
            'C-1',
        ]);
        $found = self::get(AccountStatement::class)->of(
            $this->clerk->companyId,
            [$id],
            null === $from ? null : Day::of($from),
            Day::of($through),
        );

        return $found[0]['currencies']['USD'] ?? ['opening' => 0, 'lines' => [], 'closing' => 0, 'overdue' => 0];
    }

    public function testOpenItemsAndAllThatMoved(): void
    {
        $one = $this->itemOf($this->invoice(Side::Receivables, '1000.00', ['document_date' => '2026-06-01']));
        $two = $this->itemOf(
            $this->invoice(Side::Receivables, '300.00', ['document_date' => '2026-04-20', 'terms' => 'N30']),
        );
        $this->money(
            Side::Receivables,
            108000,
            [new PlacementRequest($one, 100000), new PlacementRequest($two, 10000)],
            [new AdjustmentRequest($one, AdjustmentKind::Discount, -2000)],
            '2026-06-10',
        );
        // a claim moves nothing
        self::get(MakeClaim::class)->make(
            $this->clerk,
            new ClaimRequest($two, 5000, ClaimKind::Disputed, 'scratched'),
            Day::of('2026-06-12'),
        );
        $open = $this->stated(null, self::DAY);
        self::assertSame([20000, 20000], [$open['closing'], $open['overdue']]);
        self::assertSame([15000, 5000], array_column($open['lines'], 'amount'), 'the claim stands by itself');
        $moved = $this->stated('2026-06-01', self::DAY);
        self::assertSame(30000, $moved['opening']);
        self::assertSame(
            [['2026-06-01', 100000, 130000], ['2026-06-10', -108000, 22000], ['2026-06-10', -2000, 20000]],
            array_map(static fn (array $l): array => [$l['day'], $l['amount'], $l['balance']], $moved['lines']),
        );
        self::assertSame($open['closing'], $moved['closing'], 'both come to what is owed');
        self::assertSame(30000, $this->stated(null, '2026-05-31')['closing'], 'the past stays as it was');
        $settlement = (int) $this->db()->fetchOne('SELECT MIN(id) FROM settlement');
        self::get(UndoSettlement::class)->undo($this->clerk, $settlement, Day::of('2026-06-14'));
        $moved = $this->stated('2026-06-11', self::DAY);
        self::assertSame(
            [[2000, 22000]],
            array_map(static fn (array $l): array => [$l['amount'], $l['balance']], $moved['lines']),
        );
    }

    public function testManyAreSentAndNobodyIsLeftOutInSilence(): void
    {
        $this->invoice(Side::Receivables, '40.00', ['terms' => 'N30']);
        $id = (string) $this->db()->fetchOne('SELECT id FROM party WHERE company_id = ? AND code = ?', [
            $this->clerk->companyId,
            'C-1',
        ]);
        $page = '/TEST/receivables/statements';
        $send = fn (): string => $this->post($page, $page.'/send', [
            'ids' => [$id],
            'what' => 'moves',
            'from' => '2026-06-01',
        ])
            ->filter('.said-done, .said-refused')
            ->text();
        self::assertStringContainsString('No address is known for Gannet Sailing School', $send());
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM outbox'));
        self::get(SaveParty::class)->save(
            $this->clerk,
            Side::Receivables,
            ['code' => 'C-1', 'name' => 'Gannet Sailing School', 'email' => 'office@gannet.example'],
            (int) $id,
        );
        self::assertStringContainsString('1 statement lies in the outbox', $send());
        self::assertStringContainsString(
            'Statement of account',
            (string) $this->db()->fetchOne('SELECT subject FROM outbox'),
        );
        $one = $this->page($page.'/'.$id.'?what=moves&from=2026-06-01&through=2026-06-15');
        self::assertStringContainsString('brought forward', $one->text());
        self::assertStringContainsString('40.00', $one->filter('tfoot')->text());
        $this->browser->request('GET', $page.'/print.pdf?ids[]='.$id);
        self::assertStringStartsWith('%PDF', (string) $this->browser->getResponse()->getContent());
    }
}
