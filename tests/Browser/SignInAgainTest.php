<?php

declare(strict_types=1);

namespace Nelbix\Tests\Browser;

use Doctrine\DBAL\DriverManager;
use Doctrine\DBAL\Tools\DsnParser;
use Facebook\WebDriver\WebDriverKeys as Key;

/** The session ends while a form is typed: the sign-in appears over the page, and what was typed is sent after it. */
final class SignInAgainTest extends BrowserCase
{
    public function testWhatWasTypedIsSentAfterSigningInAgain(): void
    {
        $this->signIn('ilves');
        $this->go('/BOAT/payables/invoice');
        $this->type('V-0003', Key::TAB);
        $this->tabTo('number');
        $number = 'AGAIN-'.bin2hex(random_bytes(3));
        $this->type($number, Key::TAB, '12', Key::TAB);
        $this->tabTo('lines[0][account]');
        // an amount of its own, or it would look like one that is there
        $amount = random_int(100, 999).'.'.random_int(10, 99);
        $this->type('5000', Key::TAB, Key::TAB, $amount, Key::TAB);
        $this->see('#sum', $amount);
        $this->leave();
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('dialog.sign-in-again', 'what you typed is still here');
        $this->accessible();
        self::assertSame('_username', $this->focused());
        $this->type('ilves', Key::TAB, 'wrong', Key::ENTER);
        $this->see('dialog.sign-in-again', 'Invalid credentials');
        $this->browser->executeScript('document.querySelector("dialog [name=_username]").value = ""');
        $this->type('ilves', Key::TAB, 'tamarack', Key::ENTER);
        $this->see('.said-done', 'Posted VI-');
        $this->see('main', $number);
    }

    /** The rows of a batch are kept as they are typed, without a form that is sent. */
    public function testTheRowsOfABatchWaitForTheSignIn(): void
    {
        $this->signIn('ilves');
        $this->go('/BOAT/payables/batches');
        $this->browser->executeScript(
            'const f = document.querySelector("form[action$=\'/batches/open\']"); f.elements.name.value = "Again"; f.requestSubmit();',
        );
        $this->see('h1', 'Again');
        $this->browser->executeScript('document.querySelector("[data-grid] input:not([type=hidden])").focus()');
        $this->leave();
        $this->type('V-0003', Key::TAB);
        $this->see('dialog.sign-in-again', 'what you typed is still here');
        $this->browser->wait(self::PATIENCE, 40)->until(fn (): bool => '_username' === $this->focused());
        $this->type('ilves', Key::TAB, 'tamarack', Key::ENTER);
        $this->browser
            ->wait(self::PATIENCE, 40)
            ->until(
                fn (): bool => '' !==
                    (string) $this->browser->executeScript(
                        'return document.querySelector("[data-grid] tr[data-draft]")?.dataset.draft ?? ""',
                    ),
                'the row is kept after signing in again',
            );
    }

    /** A receipt that is followed by the next loads no page: what refuses it, or asks who is there, stands in the page that is there. */
    public function testAReceiptBeforeTheNextIsRefusedAndSentAgainInItsPlace(): void
    {
        $this->signIn('okafor');
        $this->go('/BOAT/receivables/receipt');
        $this->browser->executeScript('window.loadedOnce = true');
        $amount = random_int(7_000, 7_999).'.'.random_int(10, 99);
        $this->type(Key::TAB, $amount, Key::TAB);
        $this->quiet();
        $this->chord(Key::ENTER, Key::CONTROL, Key::SHIFT);
        $this->see('.said-refused', 'Not posted.');
        self::assertSame('party', $this->focused());
        self::assertStringContainsString($amount, str_replace(',', '', $this->value('amount')));
        $this->accessible();
        $this->type('C-0048', Key::TAB);
        $this->see('#n-party', ' ');
        // nothing asks any more before it is sent
        $this->quiet();
        $this->browser->manage()->deleteAllCookies();
        $this->chord(Key::ENTER, Key::CONTROL, Key::SHIFT);
        $this->see('dialog.sign-in-again', 'what you typed is still here');
        $this->browser->wait(self::PATIENCE, 40)->until(fn (): bool => '_username' === $this->focused());
        $this->type('okafor', Key::TAB, 'tamarack', Key::ENTER);
        $this->see('.said-done', 'Posted RC-');
        self::assertTrue($this->browser->executeScript('return window.loadedOnce === true'), 'nothing was loaded');
    }

    public function testAnotherPersonDoesNotSendTheForm(): void
    {
        $this->signIn('ilves');
        $this->go('/BOAT/payables/invoice');
        $this->type('V-0003', Key::TAB);
        $this->leave();
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('dialog.sign-in-again', 'Sign in again');
        $this->browser->wait(self::PATIENCE, 40)->until(fn (): bool => '_username' === $this->focused());
        $this->type('brandt', Key::TAB, 'tamarack', Key::ENTER);
        $this->see('header.top', 'L. Brandt');
    }

    /** A panel that comes after a form was sent does not write back the session of before, without what was said of the form. */
    public function testWhatChangesNothingLeavesTheSessionAsItIs(): void
    {
        $this->signIn('ilves');
        $this->go('/BOAT/payables/invoice');
        $before = $this->session();
        self::assertNotSame('', $before);
        time_sleep_until(floor(microtime(true)) + 1.01); // when it was used is kept to the second
        $this->go('/BOAT/payables/items');
        self::assertSame($before, $this->session());
    }

    private function session(): string
    {
        $url = $_SERVER['DATABASE_URL'] ?? getenv('DATABASE_URL');
        $db = DriverManager::getConnection((new DsnParser(['mysql' => 'pdo_mysql']))->parse((string) $url));

        return (string) $db->fetchOne('SELECT sess_data FROM sessions WHERE sess_id = ?', [
            $this->browser->manage()->getCookieNamed('nelbix')?->getValue(),
        ]);
    }

    /** The session is gone, and a while passes. What the page asked for by itself has come before, or that would ask for the sign-in. */
    private function leave(): void
    {
        $this->quiet();
        $this->browser->manage()->deleteAllCookies();
        $this->browser->executeScript('const now = Date.now; Date.now = () => now() + 120000;');
    }
}
