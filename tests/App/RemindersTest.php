<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Money\ClaimKind;
use Nelbix\App\Money\ClaimRequest;
use Nelbix\App\Money\MakeClaim;
use Nelbix\App\Parties\SaveReminderLadder;
use Nelbix\App\Receivables\RemindersQuery;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** Who is reminded, of what, and when not. Source: rules.md, Reminders. */
final class RemindersTest extends ScreenCase
{
    private const PAGE = '/TEST/receivables/reminders';

    protected function setUp(): void
    {
        parent::setUp();
        $ladder = self::get(SaveReminderLadder::class)->save($this->clerk, [
            'code' => 'USUAL',
            'name' => 'usual',
            'rungs' => '7 21 45',
            'fees' => '0 10',
            'texts' => 'kindly | again',
        ]);
        $this->db()->executeStatement('UPDATE party SET reminder_ladder_id = ? WHERE company_id = ? AND code = ?', [
            $ladder,
            $this->clerk->companyId,
            'C-1',
        ]);
    }

    /** @return list<array{int, int, string}> rung, fee, text */
    private function due(string $day = self::DAY): array
    {
        return array_map(
            static fn (array $r): array => [$r['rung'], $r['fee'], $r['text']],
            self::get(RemindersQuery::class)->of($this->clerk->companyId, 'USD', Day::of($day)),
        );
    }

    /** @param array<string, mixed> $more */
    private function send(array $more = ['_action' => 'paper']): string
    {
        $keys = array_column(
            self::get(RemindersQuery::class)->of($this->clerk->companyId, 'USD', Day::of(self::DAY)),
            'key',
        );

        return $this->post(self::PAGE, self::PAGE.'/send', ['keys' => $keys, ...$more])
            ->filter('.said-done, .said-refused')
            ->text();
    }

    public function testRungsAreClimbedOneARunInOrder(): void
    {
        // due on 15 May: on 15 June it is 31 days late, past the second rung; the first goes out first all the same
        $item = $this->itemOf(
            $this->invoice(Side::Receivables, '300.00', ['document_date' => '2026-04-15', 'terms' => 'N30']),
        );
        self::assertSame([], $this->due('2026-05-21'), 'six days late is not seven');
        self::assertSame([[1, 0, 'kindly']], $this->due('2026-05-22'));
        self::assertSame([[1, 0, 'kindly']], $this->due());
        self::assertStringContainsString('1 reminder is kept as sent on paper', $this->send());
        self::assertSame([[2, 1000, 'again']], $this->due());
        self::assertStringContainsString('Nobody is picked', $this->send(['keys' => []]));
        self::assertStringContainsString('No address is known', $this->send(['_action' => 'mail']));
        $this->db()->executeStatement("UPDATE party SET email = 'office@gannet.example' WHERE code = 'C-1'");
        $seen = array_column(
            self::get(RemindersQuery::class)->of($this->clerk->companyId, 'USD', Day::of(self::DAY)),
            'key',
        );
        self::assertStringContainsString('1 reminder lies in the outbox', $this->send(['_action' => 'mail']));
        self::assertSame(-1000, $this->balance('4700'), 'the fee is a finance charge');
        self::assertSame([], $this->due(), 'the third rung is at 45 days');
        self::assertStringContainsString(
            'Somebody sent one of them',
            $this->send(['_action' => 'mail', 'keys' => $seen]),
            'the page that is old sends nothing twice',
        );
        self::assertSame(1, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM outbox'));
        // paid, nobody is reminded of it
        $this->money(Side::Receivables, 30000, [new PlacementRequest($item, 30000)]);
        self::assertSame([], $this->due('2026-06-29'));
    }

    public function testClaimsPromisesAndSmallSumsDoNotCount(): void
    {
        $item = $this->itemOf(
            $this->invoice(Side::Receivables, '300.00', ['document_date' => '2026-04-15', 'terms' => 'N30']),
        );
        $party = (string) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'C-1' AND company_id = ?", [
            $this->clerk->companyId,
        ]);
        $page = '/TEST/receivables/party/'.$party;
        $promise = fn (string $until, string $text): string => $this->post($page, $page.'/promise', [
            'until' => $until,
            'text' => $text,
        ])
            ->filter('.said-done, .said-refused')
            ->text();
        self::assertStringContainsString('Say who promised', $promise('2026-06-20', ''));
        self::assertStringContainsString('from today on', $promise('2026-06-14', 'x'));
        self::assertStringContainsString(
            'Nobody is reminded here through 20 Jun 2026',
            $promise('2026-06-20', 'Mrs Gannet'),
        );
        self::assertSame([], $this->due('2026-06-20'));
        self::assertCount(1, $this->due('2026-06-21'), 'the day after, it counts again');
        self::get(MakeClaim::class)->make(
            $this->clerk,
            new ClaimRequest($item, 29600, ClaimKind::Disputed, 'scratched'),
            Day::of(self::DAY),
        );
        self::assertSame([], $this->due('2026-06-21'), 'of 4.00 nobody is reminded, and a claim is none of it');
    }
}
