<?php

declare(strict_types=1);

namespace Nelbix\Tests\Browser;

use Facebook\WebDriver\WebDriverKeys as Key;

/**
 * A month end by keyboard: aging to a document and back, the break found by its line, revaluation, the month locked, the accounts signed
 * off, an entry into a signed-off day refused; and the year of the shop closed.
 */
final class MonthEndTest extends BrowserCase
{
    private function main(string $done): void
    {
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->until('document.querySelector(".said-done, .said-refused") !== null');
        $this->see('.said-done', $done);
    }

    /** The lock of a ledger of the period on the page, with its reason. */
    private function lock(string $which): void
    {
        $this->browser->executeScript(
            'const f = document.querySelector(`.lock input[name=which][value="${arguments[0]}"]`).form;'.
                'f.closest("details").open = true; f.querySelector("[name=why]").focus();',
            [$which],
        );
        $this->type('the month is done', Key::ENTER);
        $this->until('document.querySelector(".said-done, .said-refused") !== null');
        $this->see('.said-done', 'Locked 2026/0');
    }

    public function testFromTheAgingToItsDocumentAndBack(): void
    {
        $this->signIn('okafor');
        $this->go('/BOAT/receivables/aging');
        $this->see('.foot', 'apart');
        $this->accessible();
        // down to a row, right through its figures, Enter opens one
        $this->type(Key::ARROW_DOWN, Key::ARROW_DOWN, Key::ARROW_RIGHT);
        $this->until('document.activeElement.matches("a.figure")');
        $figure = (string) $this->browser->executeScript('return document.activeElement.textContent.trim()');
        $this->type(Key::ENTER);
        $this->until('location.pathname.endsWith("/aging/items")');
        $this->see('.foot', $figure);
        $this->accessible();
        $this->type(Key::ARROW_DOWN, Key::ENTER);
        $this->until('location.pathname.includes("/document/")');
        $this->browser->navigate()->back();
        $this->until('location.pathname.endsWith("/aging/items")');
        $this->type(Key::ESCAPE);
        $this->until('location.pathname.endsWith("/aging")');
    }

    public function testABreakIsFoundByItsLine(): void
    {
        $this->signIn('brandt');
        $this->go('/BOAT/close/tie-out');
        $this->see('#moved', 'shop cash over');
        $this->accessible();
        $this->browser->executeScript('document.querySelector("[data-break]").focus()');
        $this->type(Key::ARROW_LEFT);
        $this->see('#moved', 'nothing moved the difference');
        $this->type(Key::ARROW_RIGHT);
        $this->see('#moved', 'shop cash over');
        $this->type(Key::END);
        $this->see('#moved', '15 Jun 2026');
    }

    public function testWhyAFigureIsWhatItIs(): void
    {
        $this->signIn('ilves');
        $this->go('/BOAT/payables/documents?state=all');
        $this->type(Key::ARROW_DOWN, 'w');
        $this->until('document.querySelector("#why[open] .whys") !== null');
        $this->see('#why', 'what it was, less what stands settled of it');
        $this->accessible();
        $this->type(Key::ESCAPE);
        $this->until('document.querySelector("#why[open]") === null');
        // in a form that is typed, with Alt from within a field
        $this->go('/BOAT/payables/invoice');
        $this->browser->executeScript('document.querySelector("#invoice input.in").focus()');
        $this->type('V-0011', Key::TAB);
        // what the form asks of itself meanwhile does not take the question back
        $this->late(900);
        $this->chord('w', Key::ALT);
        $this->until('document.querySelector("#why[open]") !== null');
        $this->see('#why', 'Nothing is worked out yet');
        $this->accessible();
    }

    public function testAPaymentIsMovedInTheOutlook(): void
    {
        $this->signIn('brandt');
        $this->go('/BOAT/bank/outlook');
        $this->accessible();
        $was = (string) $this->browser->executeScript(
            'const m = document.querySelector("#outlook [data-key^=due-]"); m.focus(); return m.dataset.day',
        );
        $this->chord(Key::ARROW_RIGHT, Key::CONTROL);
        $this->until('location.search.includes("move")');
        // the mark that was moved keeps the focus, a week later
        $this->until('document.activeElement.matches("#outlook [data-key^=due-]")');
        $day = (string) $this->browser->executeScript('return document.activeElement.dataset.day');
        self::assertSame(7, (new \DateTimeImmutable($was))->diff(new \DateTimeImmutable($day))->days);
        $this->see('[role=status]', 'the lowest likely balance is');
        $this->accessible();
    }

    public function testTheCloseOfAMonthFromItsGatesToTheSignOff(): void
    {
        $this->signIn('brandt');
        $this->go('/BOAT/close/revaluation?as_of=2026-04-30');
        $this->accessible();
        if ((bool) $this->browser->executeScript('return document.querySelector("form[data-main]") !== null')) {
            $this->main('Posted the revaluation of 30 Apr 2026');
        }
        $this->go('/BOAT/close');
        $this->see('h1', 'Close 2026/04');
        $this->see('.gates', 'not signed off');
        $this->accessible();
        $april = $this->period();
        foreach (['payables', 'receivables', 'ledger'] as $which) {
            $this->go('/BOAT/close?period='.$april);
            $this->lock($which);
        }
        $this->go('/BOAT/close/tie-out?as_of=2026-04-30');
        $this->main('control accounts as of 30 Apr 2026');
        $this->see('main', 'L. Brandt');
        $this->go('/BOAT/close?period='.$april);
        $this->see('.gates', 'every control account is signed off');
        // the month is opened again: what is signed off stays closed
        $this->browser->executeScript(
            'const f = document.querySelector(".lock input[name=which][value=ledger]").form;'.
                'f.closest("details").open = true; f.querySelector("[name=why]").focus();',
        );
        $this->type('one more entry', Key::ENTER);
        $this->see('.said-done', 'Opened 2026/04');
        $this->go('/BOAT/close/journal/new');
        $this->browser->executeScript('document.querySelector("[name=day]").value = ""');
        $this->tabTo('day');
        $this->type('4/30/2026', Key::TAB, 'cash of the office', Key::TAB, Key::TAB);
        $this->type('1200', Key::TAB, Key::TAB, '5', Key::TAB, Key::TAB, Key::TAB, Key::TAB, Key::TAB);
        $this->type('6400', Key::TAB, Key::TAB, Key::TAB, '5', Key::TAB);
        $this->browser->executeScript(
            'document.querySelector("[name=bypass]").checked = true; document.querySelector("[name=bypass_why]").value = "a test of it"',
        );
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-refused', 'signed off through 30 Apr 2026');
        $this->accessible();
    }

    private function period(): int
    {
        return (int) $this->browser->executeScript(
            'const r = [...document.querySelectorAll("tr[data-href]")].find((r) => r.textContent.includes("2026/04"));'.
                'return Number(new URL(r.dataset.href, location.href).searchParams.get("period"))',
        );
    }

    public function testAYearEndsAndTheNewOneBegins(): void
    {
        $this->signIn('brandt');
        $this->go('/CHAND/close/year-end?year=2025');
        $this->accessible();
        $this->see('main', 'Materials');
        $this->main('Closed 2025 by JE-25-');
        $this->see('.foot', '2025 is closed');
        // the new year starts from it
        $this->go('/CHAND/close/trial-balance?from=2026-01-01&to=2026-01-01');
        $this->see('tbody', 'Retained earnings');
        self::assertStringNotContainsString('Materials', $this->text('tbody'));
        $this->accessible();
        // and takes an entry of its own
        $this->go('/CHAND/close/journal/new');
        $this->browser->executeScript('document.querySelector("[name=day]").value = ""');
        $this->tabTo('day');
        $this->type('1/2/2026', Key::TAB, 'rent of the new year', Key::TAB, Key::TAB);
        $this->type('6400', Key::TAB, Key::TAB, '7', Key::TAB, Key::TAB, Key::TAB, Key::TAB, Key::TAB);
        $this->type('1000', Key::TAB, Key::TAB, Key::TAB, '7', Key::TAB);
        $this->main('JE-26-');
        $this->go('/CHAND/close/trial-balance?from=2026-01-02&to=2026-01-02');
        $this->see('tbody', '7.00');
    }
}
