<?php

declare(strict_types=1);

namespace Nelbix\Tests\Browser;

use Facebook\WebDriver\WebDriverBy;
use Facebook\WebDriver\WebDriverKeys as Key;

/** The keys of interface.md on the real screens. */
final class KeyboardTest extends BrowserCase
{
    private function url(): string
    {
        return (string) parse_url($this->browser->getCurrentURL(), \PHP_URL_PATH);
    }

    private function waitFor(string $path): void
    {
        $this->browser
            ->wait(self::PATIENCE, 40)
            ->until(fn (): bool => $path === $this->url(), 'waited for '.$path.', stands on '.$this->url());
    }

    public function testAreasSearchListsAndTheWayOut(): void
    {
        $this->signIn('brandt');
        $this->type('5');
        $this->waitFor('/BOAT/close');
        $this->type('2');
        $this->waitFor('/BOAT/payables/items');
        $this->type('f');
        self::assertSame('as_of', $this->focused());
        $this->type(Key::ESCAPE, Key::ARROW_DOWN, Key::ARROW_DOWN, Key::ARROW_UP);
        $number = (string) $this->browser->executeScript(
            'return document.activeElement.querySelector("a").textContent',
        );
        $this->type(Key::ENTER);
        $this->see('h1', $number);
        $this->type('/');
        self::assertSame('q', $this->focused());
        $this->type('88164', Key::ENTER);
        $this->see('main', 'Fenwick Timber');
        $this->type('?');
        // the keys of this screen, and only those; the areas as this role has them
        $this->see('dialog.keys', 'Today, Payables, Receivables, Bank, Close, Setup');
        $this->see('dialog.keys', '1 – 6');
        foreach (['clear the board', 'cells of the grid', 'save draft', 'Dates'] as $none) {
            self::assertStringNotContainsString($none, $this->text('dialog.keys'));
        }
        $this->accessible();
        $this->type(Key::ESCAPE);
    }

    /** The pages of a long list: > goes on, < goes back to the top, Enter opens a row of the second page. */
    public function testThePagesOfALongList(): void
    {
        $this->signIn('brandt');
        $this->go('/BOAT/receivables/documents?state=posted');
        $first = fn (): string => (string) $this->browser->executeScript(
            'return document.querySelector("table.list tbody tr").dataset.href',
        );
        $top = $first();
        $this->type('>');
        $this->browser->wait(self::PATIENCE, 40)->until(static fn (): bool => $first() !== $top);
        $this->see('.pages', 'From the top');
        $this->accessible();
        $second = $first();
        $this->type(Key::ARROW_DOWN, Key::ENTER);
        $this->waitFor($second);
        $this->browser->navigate()->back();
        $this->type('<');
        $this->browser->wait(self::PATIENCE, 40)->until(static fn (): bool => $first() === $top);
    }

    public function testPostAndNextKeepsThePostingDate(): void
    {
        $this->signIn('ilves');
        foreach (['KN-1', 'KN-2'] as $k => $number) {
            if (0 === $k) {
                $this->go('/BOAT/payables/invoice');
            }
            self::assertSame('party', $this->focused());
            $this->type('V-0003', Key::TAB);
            $this->tabTo('number');
            $this->type($number, Key::TAB, '12', Key::TAB);
            if (0 === $k) {
                $this->type('13');
            }
            $this->tabTo('lines[0][account]');
            $this->type('5000', Key::TAB, Key::TAB, 10 + $k.'.00', Key::TAB);
            $this->see('#sum', 10 + $k.'.00');
            $this->chord(Key::ENTER, Key::CONTROL, Key::SHIFT);
            $this->see('.said-done', 'Payables rose by '.(10 + $k).'.00');
            self::assertSame('', $this->value('party'));
            self::assertSame('13 Jun 2026', $this->value('posting_date'));
        }
        $this->booksAgree();
    }

    public function testTheRestInGreyIsTakenByTabAndADraftIsKept(): void
    {
        $this->signIn('ilves');
        $this->go('/BOAT/payables/invoice');
        $this->type('V-0003', Key::TAB);
        $this->tabTo('number');
        $this->type('KD-1', Key::TAB, '.', Key::TAB);
        $this->tabTo('stated_total');
        $this->type('100', Key::TAB, '5000', Key::TAB, Key::TAB, '60', Key::TAB);
        $this->see('#sum', '40.00 short of the paper');
        $this->tabTo('lines[1][account]');
        $this->type('5200', Key::TAB, 'freight', Key::TAB);
        self::assertSame('lines[1][amount]', $this->focused());
        $this->browser
            ->wait(self::PATIENCE, 40)
            ->until(fn (): bool => '40.00' === $this->value('lines[1][amount]', 'placeholder'));
        $this->type(Key::TAB);
        $this->see('#sum', 'agrees with the paper');
        $this->chord('s', Key::CONTROL);
        $this->see('.said-done', 'Draft saved');
        self::assertSame('40.00', $this->value('lines[1][amount]'));
        // the entry panel goes away and comes back
        $this->chord('e', Key::ALT);
        self::assertFalse($this->browser->findElement(WebDriverBy::cssSelector('.side'))->isDisplayed());
        $this->chord('e', Key::ALT);
        self::assertTrue($this->browser->findElement(WebDriverBy::cssSelector('.side'))->isDisplayed());
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Payables rose by 100.00');
    }

    public function testSingleKeysCanBeSwitchedOff(): void
    {
        $this->signIn('quist');
        $this->type('?');
        $this->browser->findElement(WebDriverBy::cssSelector('dialog.keys button.link'))->click();
        $this->see('.said-done', 'Single keys are off');
        $this->type('5', '/');
        $this->quiet();
        self::assertSame('/BOAT', $this->url());
        self::assertNotSame('q', $this->focused());
        $this->browser->executeScript('document.querySelector("dialog.keys").showModal()');
        $this->browser->findElement(WebDriverBy::cssSelector('dialog.keys button.link'))->click();
        $this->see('.said-done', 'Single keys are on');
    }

    public function testTheBoardPlacesTakesBackAndClears(): void
    {
        $this->signIn('okafor');
        $this->go('/BOAT/receivables/receipt?party=C-0002');
        $this->tabTo('amount');
        $this->type('500', Key::TAB);
        $this->see('.beam-text', 'left to place 500.00');
        $this->browser->executeScript('document.querySelector("[data-side=owed] tr[data-row]").focus()');
        $this->type(Key::ENTER);
        $this->see('.beam-text', 'left to place 0.00');
        // a row that has the focus is brought up to date as well: this is what is going to be posted
        $this->until('document.querySelector("[data-side=owed] input[name^=placed]").value === "500.00"');
        // the ribbon is drawn after the numbers
        $this->browser
            ->wait(self::PATIENCE, 40)
            ->until(
                fn (): bool => 1 ===
                    $this->browser->executeScript(
                        'return document.querySelectorAll(".ribbons path:not(.loose)").length',
                    ),
            );
        $this->browser->executeScript('document.querySelector("[data-side=owed] tr[data-row]").focus()');
        $this->type(Key::DELETE);
        $this->see('.beam-text', 'left to place 500.00');
        $this->browser->executeScript('document.querySelector("[data-side=owed] tr[data-row]").focus()');
        $this->type('1', '2', '0');
        $this->see('.beam-text', 'left to place 380.00');
        $this->see('.shelf', 'stays unapplied');
        $this->type(Key::ESCAPE, '0');
        $this->see('.beam-text', 'left to place 500.00');
    }

    /** What is typed faster than the picker answers is what counts, not what an older list has marked. */
    public function testAPickerIsNotTakenFromAnOlderList(): void
    {
        $this->signIn('ilves');
        foreach (
            ['V-0001' => 'Fenwick Timber', 'V-0005' => 'Lindqvist Crane Hire', 'fenw' => 'Fenwick Timber'] as $typed => $name
        ) {
            $this->go('/BOAT/payables/invoice');
            $this->browser->getKeyboard()->sendKeys($typed.Key::TAB);
            $this->see('#n-party', $name);
        }
        // an allowance is entered above zero, and stays so when it was understood
        $this->tabTo('lines[0][account]');
        $this->type('5000', Key::TAB, 'less', Key::TAB, '20', Key::TAB);
        $this->tabTo('lines[0][kind]');
        $this->type('l');
        $this->tabTo('lines[1][account]');
        $this->type('5000', Key::TAB, 'oak', Key::TAB, '120', Key::TAB);
        $this->see('#sum', '100.00');
        self::assertSame(
            '20.00',
            $this->browser->executeScript('return document.querySelector("[name=\"lines[0][amount]\"]").value'),
        );
    }

    public function testIdeasAndTheShelfByKey(): void
    {
        $this->signIn('okafor');
        $this->go('/BOAT/receivables/receipt?party=C-0002');
        $this->see('#board', 'CI-2');
        $number = (string) $this->browser->executeScript(
            'return document.querySelector("[data-side=owed] tr[data-row] button").textContent',
        );
        $this->tabTo('amount');
        // out of the fields: how it came and what the bank calls it stay as they are
        $this->type('50', Key::TAB, 'for '.$number, Key::TAB, Key::ESCAPE);
        $this->see('.idea', 'their text names it');
        $this->see('.why', 'their text names it');
        $this->type('i');
        $this->see('.beam-text', 'left to place 0.00');
        $this->see('.shelf', $number.' stays short of');
        $this->accessible();
        $this->type('i');
        $this->see('.idea', 'oldest first');
        $this->type('i');
        $this->see('.beam-text', 'left to place 50.00');
        $this->type('s');
        self::assertSame('kind', $this->focused());
        $this->type(Key::ARROW_RIGHT);
        $this->see('#panel', 'prepayment');
        self::assertStringContainsString(
            'beam-closed',
            (string) $this->browser->findElement(WebDriverBy::cssSelector('.beam'))->getAttribute('class'),
            'all of the rest has a place',
        );
    }

    public function testAVendorIsAddedWithoutLeavingTheInvoice(): void
    {
        $this->signIn('ilves');
        $this->go('/BOAT/payables/invoice');
        $this->type('Quillfeather Sails', Key::ARROW_DOWN);
        $this->see('.pick', 'Add Quillfeather Sails as a new vendor');
        $this->type(Key::ARROW_DOWN, Key::ENTER);
        $this->see('dialog.quick', 'New vendor');
        self::assertSame('Quillfeather Sails', $this->browser->executeScript('return document.activeElement.value'));
        $this->accessible();
        $this->tabTo('default_account');
        $this->type('9x');
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('dialog.quick', 'There is no account “9x”');
        $this->chord('a', Key::CONTROL);
        $this->type('5000', Key::TAB);
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('#n-party', 'Quillfeather Sails');
        self::assertSame('party', $this->focused());
        $this->type(Key::TAB, 'Q-1', Key::TAB, '.', Key::TAB);
        $this->tabTo('lines[0][amount]');
        $this->type('12.50', Key::TAB);
        $this->see('#panel', '12.50');
    }

    public function testEachRoleFindsOnlyItsOwn(): void
    {
        $this->signIn('reyes');
        self::assertStringNotContainsString('Payables', $this->text('.rail'));
        $this->go('/BOAT/payables/items');
        $this->see('h1', 'Not allowed');
        $this->accessible();
        $this->signIn('okafor');
        self::assertStringNotContainsString('Payables', $this->text('.rail'));
        $this->signIn('quist');
        $this->go('/BOAT/payables/items');
        self::assertStringNotContainsString('Enter invoice', $this->text('.foot'));
    }
}
