<?php

declare(strict_types=1);

namespace Nelbix\Tests\Browser;

use Facebook\WebDriver\WebDriverKeys as Key;

/** A morning at the bank: the statement to zero, a rule on the way, the account signed off; and two sister companies compared. */
final class BankMorningTest extends BrowserCase
{
    /** How many lines of the statement wait. */
    private function waiting(): int
    {
        return (int) $this->browser->executeScript('return document.querySelectorAll("tr[data-line]").length');
    }

    /** Puts the row whose text has these words under the keys, the first that is not marked. */
    private function stepTo(string $words): void
    {
        $this->browser->executeScript(
            'const r = [...document.querySelectorAll("tr[data-line]")].find((r) => r.textContent.includes(arguments[0])'.
                ' && !r.querySelector("input[name=\"go[]\"]").checked); if (r) r.focus();',
            [$words],
        );
        $this->until('document.activeElement.matches("tr[data-line]")');
    }

    private function post(): void
    {
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->until('document.querySelector(".said-done, .said-refused") !== null');
    }

    public function testAMorningsStatementToZeroAndTheAccountSignedOff(): void
    {
        $this->signIn('brandt');
        $this->go('/BOAT/bank');
        $this->see('table.list', 'Harbor Trust');
        $this->accessible();
        $this->go('/BOAT/bank/1/statement');
        $this->see('h1', 'Harbor Trust');
        self::assertSame(40, $this->waiting());
        $this->see('#panel', 'marked');
        $this->see('#beam', 'marked ');
        self::assertStringNotContainsString('placed', $this->text('#beam'), 'nothing is, before it is posted');
        $this->accessible();
        // what is sure goes with one key
        $this->post();
        $this->see('.said-done', '26 lines placed');
        self::assertSame(14, $this->waiting());
        $this->see('#beam', 'placed ');
        self::assertStringNotContainsString('marked', $this->text('#beam'));
        // a receipt that came less what a bank on the way kept: the difference has its account in the row
        $this->stepTo('Merganser');
        $this->type(Key::ENTER);
        $this->see('#panel', 'Bank charges');
        self::assertStringContainsString('15.00', $this->text('#panel'));
        // nobody knows who paid
        $this->browser->executeScript('document.activeElement.blur()');
        $this->stepTo('Marlowe');
        $this->type('?');
        $this->until('document.activeElement.matches("[data-seek]")');
        $this->see('tr[data-line]:focus-within select', 'unidentified');
        $this->type(Key::ENTER);
        $this->post();
        $this->see('.said-done', '2 lines placed');
        $this->rule('FUEL', '6500');
        $this->rule('PARKING', '6500');
        // the rest one by one: typing searches an account, Enter takes it
        foreach (['FERRY' => '6500', 'CHART' => '6400', 'POST OFFICE' => '6400'] as $words => $account) {
            while (
                (int) $this->browser->executeScript(
                    'return [...document.querySelectorAll("tr[data-line]")].filter((r) => r.textContent.includes(arguments[0])'.
                        ' && !r.querySelector("input[name=\"go[]\"]").checked).length',
                    [$words],
                ) > 0
            ) {
                $this->stepTo($words);
                $this->type($account[0]);
                $this->until('document.activeElement.matches("[data-seek]")');
                $this->type(substr($account, 1));
                $this->see('tr[data-line]:focus-within select', 'account '.$account);
                $this->type(Key::ENTER);
            }
        }
        // the bank wrote one line twice: one is the receipt that bounced, the other waits on an account until the bank mends it
        $this->stepTo('Fulmar');
        $this->type(Key::ENTER);
        $this->stepTo('Fulmar');
        $this->type('1');
        $this->until('document.activeElement.matches("[data-seek]")');
        $this->type('450');
        $this->see('tr[data-line]:focus-within select', 'account 1450');
        $this->type(Key::ENTER);
        $this->see('#beam', 'left to place 0.00');
        $this->post();
        $this->see('main', 'Every line of this statement has its place');
        $this->accessible();
        $this->go('/BOAT/bank/1/reconcile?as_of=2026-06-12');
        $this->see('.foot', 'Bank and ledger agree');
        $this->accessible();
        $this->post();
        $this->see('.said-done', 'is signed off as of 12 Jun 2026');
        $this->see('main', 'unchanged');
        $this->booksAgree();
    }

    /** A rule from a line with a key, tried on past lines, kept; what it finds goes with one key. */
    private function rule(string $words, string $account): void
    {
        $this->stepTo($words);
        $this->type('r');
        $this->see('h1', 'New reading rule');
        $this->see('#tried', 'It fits');
        $this->accessible();
        $this->tabTo('lines[0][account]');
        $this->type($account, Key::TAB);
        $this->post();
        $this->see('.said-done', 'The rule is kept');
        $this->see('tr[data-line]', $words);
        $this->post();
        $this->see('.said-done', 'placed');
    }

    public function testSisterCompaniesCompared(): void
    {
        $this->signIn('brandt');
        $this->go('/BOAT/pairing');
        $this->see('table.list', 'Tamarack Boatworks owes Tamarack Chandlery');
        $this->accessible();
        $this->type(Key::ARROW_DOWN, Key::ENTER);
        $this->see('h1', 'Tamarack Boatworks owes Tamarack Chandlery');
        // three rules are there; the third is looked at and kept
        $this->go(
            (string) $this->browser->executeScript(
                'return document.querySelectorAll("a[href*=\"/rule/\"]")[3].getAttribute("href")',
            ),
        );
        $this->see('#tried', 'pairs');
        $this->accessible();
        $this->post();
        $this->see('.said-done', 'The rule is kept');
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('main', 'Ask me');
        $this->see('main', 'Missing on the left');
        $this->accessible();
        // y: they belong together
        $this->browser->executeScript('document.querySelector("tr[data-asked]").focus()');
        $this->type('y');
        $this->see('.said-done', 'They belong together');
        $this->browser->executeScript('document.querySelector("tr[data-asked]").focus()');
        $this->type('y');
        $this->see('.said-done', 'They belong together');
        self::assertStringNotContainsString('Ask me', $this->text('main'));
        // the 5.00 by which two invoices differ is posted here
        $this->browser->executeScript(
            'document.querySelector("form[action$=\"/difference\"]").closest("details").open = true',
        );
        $this->tabTo('account');
        $this->type('6850', Key::TAB);
        $this->type(Key::TAB, Key::ENTER);
        $this->see('.said-done', 'posted and belongs to the pair');
        $this->booksAgree();
        $this->browser->executeScript('document.querySelector("input[name=reason]").closest("details").open = true');
        $this->tabTo('reason');
        $this->type('they made it good', Key::ENTER);
        $this->see('.said-done', 'taken apart');
        $this->accessible();
        $this->booksAgree();
    }
}
