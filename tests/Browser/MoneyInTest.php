<?php

declare(strict_types=1);

namespace Nelbix\Tests\Browser;

use Facebook\WebDriver\WebDriverKeys as Key;

/** Money in by keyboard: an unknown payer, the shelf, pairs, a write-off that somebody else decides on, and what goes out to customers. */
final class MoneyInTest extends BrowserCase
{
    /** @return array<string, array{number: string, party: string, open: float}> what customers owe in dollars, by number */
    private function owed(): array
    {
        $owed = [];
        foreach ($this->console('nelbix:open-items', 'receivables', '--company=BOAT') as $i) {
            if ('USD' === $i['currency'] && (float) $i['open'] > 0 && 'invoice' === $i['kind']) {
                $owed[(string) $i['document']] = [
                    'number' => (string) $i['document'],
                    'party' => (string) $i['party'],
                    'open' => (float) $i['open'],
                ];
            }
        }

        return $owed;
    }

    public function testAnUnknownPayerIsFoundLater(): void
    {
        $this->signIn('okafor');
        $this->go('/BOAT/receivables/receipt');
        $amount = number_format(random_int(20_000, 90_000) / 100, 2, '.', '');
        $this->type('?', Key::TAB, $amount);
        $this->see('#panel', 'Unidentified receipts');
        $this->accessible();
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Unidentified receipts rose by '.$amount.' USD');
        $this->browser->executeScript(
            '[...document.querySelectorAll("p.act a")].find((a) => a.textContent === "Hand over").focus()',
        );
        $this->type(Key::ENTER);
        $this->see('h1', 'Hand over');
        $this->accessible();
        $this->type('C-0005', Key::TAB);
        $this->see('#panel', 'Receivables control');
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'is handed over');
        $this->booksAgree();
    }

    public function testShortWithAClaimAndABadDebtThatWaits(): void
    {
        $of = [];
        foreach ($this->owed() as $one) {
            if ($one['open'] > 500) {
                $of[$one['party']][] = $one;
            }
        }
        $two = array_values(array_filter($of, static fn (array $items): bool => \count($items) > 1))[0];
        $this->signIn('okafor');
        $this->go('/BOAT/receivables/receipt?party='.$two[0]['party']);
        $this->see('#board', $two[1]['number']);
        // the amount follows what is chosen
        foreach ([0, 1] as $k) {
            $this->browser->executeScript(
                <<<'JS'
                const row = [...document.querySelectorAll('[data-side=owed] tr[data-row]')].find((r) =>
                    r.textContent.includes(arguments[0])
                );
                row.querySelector('input[name^=placed]').focus();
                JS
                ,
                [$two[$k]['number']],
            );
            $this->type(number_format($two[$k]['open'] - 80 - 10 * $k, 2, '.', ''), Key::TAB);
            $this->see('.shelf', $two[$k]['number'].' stays short of');
        }
        $this->type(Key::ESCAPE, 's');
        foreach (['claim', 'bad'] as $k => $to) {
            $this->browser->executeScript(
                'document.querySelectorAll("[data-loose] input[value="+arguments[0]+"]")[arguments[1]].focus()',
                [$to, $k],
            );
            $this->type(' ');
            $this->browser
                ->wait(self::PATIENCE, 40)
                ->until(
                    fn (): bool => (bool) $this->browser->executeScript(
                        'return document.querySelectorAll("[data-loose]")[arguments[0]].querySelector("input[name^=rest_reason]") !== null',
                        [$k],
                    ),
                );
            $this->browser->executeScript(
                'document.querySelectorAll("[data-loose]")[arguments[0]].querySelector("input[name^=rest_reason]").focus()',
                [$k],
            );
            $this->type('said on the phone', Key::TAB);
        }
        $this->see('#panel', 'waits as a claim: bad debt');
        $this->accessible();
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'waits as a claim until somebody else approves');
        $this->go('/BOAT/receivables/claims');
        $this->see('main', 'awaits approval');
        $this->accessible();
        $this->signIn('soto');
        $this->go('/BOAT/receivables/claims');
        $this->browser->executeScript('document.querySelector("button[value=approve]").focus()');
        $this->type(Key::ENTER);
        $this->see('.said-done', 'it is written off');
        $this->go('/BOAT/receivables/written-off');
        $this->see('main', 'said on the phone');
        $this->accessible();
        $this->booksAgree();
    }

    public function testPairsAreSettledInOneGo(): void
    {
        $this->signIn('okafor');
        $this->entered('/BOAT/receivables/invoice', ['kind' => 'invoice', 'party' => 'C-0048', 'amount' => '432.10']);
        $this->entered('/BOAT/receivables/invoice', [
            'kind' => 'credit_note',
            'party' => 'C-0048',
            'amount' => '432.10',
        ]);
        $this->go('/BOAT/receivables/pairs');
        $this->see('main', '432.10');
        $this->accessible();
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Settled');
        $this->see('p.empty', 'No credit and no unapplied money');
        $this->booksAgree();
    }

    public function testWhatGoesOutToCustomers(): void
    {
        $this->signIn('okafor');
        $this->go('/BOAT/receivables/statements');
        $this->accessible();
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'in the outbox');
        $this->go('/BOAT/receivables/reminders');
        $this->accessible();
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'in the outbox');
        $this->go('/BOAT/receivables/charges');
        $this->accessible();
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Posted');
        $this->see('p.empty', 'Nobody is charged');
        $this->go('/BOAT/receivables/commissions');
        $this->accessible();
        $this->booksAgree();
    }
}
