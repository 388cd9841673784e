<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Ledger\LockPeriod;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\Payables\ChangeProposal;
use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** What a person approves is what that person saw; who guards also writes what is guarded. */
final class SeenTest extends ScreenCase
{
    public function testAProposalChangedSinceThePageWasLoadedIsNotApproved(): void
    {
        $first = $this->invoice(Side::Payables, '100.00', ['document_date' => '2026-04-01', 'terms' => 'N30']);
        $this->invoice(Side::Payables, '200.00', ['document_date' => '2026-04-02', 'terms' => 'N30']);
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = self::get(
            CriteriaReader::class,
        )->read($this->clerk, []);
        $run = self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, $method);
        $url = '/TEST/payables/proposal/'.$run;
        $this->as('approver');
        $seen = $this->page($url)->filter('input[name=_version]')->attr('value');
        self::get(ChangeProposal::class)->change($this->clerk, $run, [$this->itemOf($first)], true);
        $approve = fn (mixed $version): string => $this->post($url, $url.'/decide', [
            '_action' => 'approve',
            '_version' => $version,
        ])
            ->filter('.said-refused, .said-done')
            ->text();
        self::assertStringContainsString('was changed since this page was loaded', $approve($seen));
        self::assertStringContainsString(
            'was changed since this page was loaded',
            $approve(''),
            'a page that does not say',
        );
        self::assertSame('review', $this->db()->fetchOne('SELECT state FROM proposal WHERE id = ?', [$run]));
        self::assertStringContainsString(
            'is approved',
            $approve($this->page($url)->filter('input[name=_version]')->attr('value')),
        );
    }

    public function testBankDetailsChangedSinceThePageWasLoadedAreNotConfirmed(): void
    {
        $save = fn (string $iban, array $more = []): int => self::get(SaveParty::class)
            ->save(
                $this->clerk,
                Side::Payables,
                ['name' => 'Fenwick Timber', 'method' => 'transfer', 'iban' => $iban, 'terms' => 'N30', ...$more],
                (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'V-1' AND side = 'payables'"),
            )
            ->id();
        $id = $save('DK5000400440116243');
        $page = '/TEST/payables/party/'.$id;
        $this->as('approver');
        $seen = $this->page($page)->filter('input[name=_seen]')->attr('value');
        $save('GB82WEST12345698765432');
        $confirm = fn (mixed $of): string => $this->post($page, $page.'/confirm', ['_seen' => $of])
            ->filter('.said-refused, .said-done')
            ->text();
        self::assertStringContainsString('were changed since this page was loaded', $confirm($seen));
        self::assertStringContainsString('were changed since this page was loaded', $confirm(''));
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT bank_confirmed FROM party WHERE id = ?', [$id]));
        // another account of the same vendor counts as well
        $seen = $this->page($page)->filter('input[name=_seen]')->attr('value');
        $save('GB82WEST12345698765432', ['banks' => [['label' => 'second', 'iban' => 'DE89370400440532013000']]]);
        self::assertStringContainsString('were changed since this page was loaded', $confirm($seen));
        self::assertStringContainsString(
            'are confirmed',
            $confirm($this->page($page)->filter('input[name=_seen]')->attr('value')),
        );
    }

    /** Two people press the same button: the second is told, and does not open what the first has locked. */
    public function testAPeriodIsLockedOnce(): void
    {
        $period = $this->period();
        $send = fn (string $is, string $why = 'the month is done'): string => $this->post(
            '/TEST/close',
            '/TEST/close/lock',
            [
                'period' => (string) $period,
                'which' => 'payables',
                'is' => $is,
                'why' => $why,
            ],
        )
            ->filter('.said-refused, .said-done')
            ->text();
        self::assertStringContainsString('Locked 2026/06 for payables', $send('open'));
        self::assertStringContainsString('It is locked already', $send('open'));
        self::assertSame(1, (int) $this->db()->fetchOne('SELECT payables_locked FROM period WHERE id = ?', [$period]));
        self::assertStringContainsString('Say why it is opened', $send('locked', ' '));
        self::assertStringContainsString('Opened 2026/06 for payables', $send('locked'));
    }

    /** Between the first look and the commit somebody locks the period: the posting is refused and leaves nothing. */
    public function testAPeriodLockedWhileSomethingIsPosted(): void
    {
        $period = $this->period();
        $post = fn (?callable $meanwhile): mixed => self::get(Transaction::class)->run(function () use (
            $meanwhile,
        ): int {
            $id = $this->invoice(Side::Payables, '10.00');
            $meanwhile && $meanwhile();

            return $id;
        });
        $refused = self::refusedFields(
            fn () => $post(
                fn () => self::get(LockPeriod::class)->set($this->clerk, $period, 'payables', true, 'the month is done'),
            ),
        );
        self::assertSame(['posting_date'], $refused);
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM document'));
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT payables_locked FROM period WHERE id = ?', [$period]));
        $version = fn (): int => (int) $this->db()->fetchOne('SELECT version FROM period WHERE id = ?', [$period]);
        $before = $version();
        $post(null);
        self::assertSame($before + 1, $version(), 'a posting writes its period');
        self::assertTrue(
            self::get(PeriodGate::class)->isOpen($this->clerk->companyId, Day::of(self::DAY), [Side::Payables]),
        );
        self::assertSame($before + 1, $version(), 'a look does not');
    }

    private function period(): int
    {
        return (int) $this->db()->fetchOne("SELECT id FROM period WHERE company_id = ? AND first_day = '2026-06-01'", [
            $this->clerk->companyId,
        ]);
    }
}
