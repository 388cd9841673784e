<?php

declare(strict_types=1);

namespace Nelbix\Tests\Browser;

use Facebook\WebDriver\WebDriverBy;
use Facebook\WebDriver\WebDriverKeys as Key;
use Symfony\Component\Filesystem\Filesystem;
use Symfony\Component\Process\Process;

/**
 * A newcomer's path by keyboard, in an installation of its own: from the empty start to the first posted invoice and receipt, a second
 * person and an approval, a second company, a backup and its restore.
 */
final class NewcomerTest extends BrowserCase
{
    private const PASSWORD = 'four kettles in a row';

    private string $folder;
    private string $base;

    protected function setUp(): void
    {
        parent::setUp();
        $this->folder = sys_get_temp_dir().'/nelbix-newcomer-'.bin2hex(random_bytes(6));
        mkdir($this->folder);
        $said = $this->nelbix('own', 'start', '--empty');
        self::assertSame(1, preg_match('~Nelbix is at (http://127\.0\.0\.1:\d+)/~', $said, $m), $said);
        self::assertStringContainsString('you are the first', $said);
        $this->base = $m[1] ?? '';
    }

    protected function tearDown(): void
    {
        foreach (['own', 'back'] as $data) {
            if (is_dir($this->folder.'/'.$data)) {
                $this->nelbix($data, 'stop');
            }
        }
        (new Filesystem())->remove($this->folder);
        parent::tearDown();
    }

    protected function go(string $path): void
    {
        $this->browser->get($this->base.$path);
    }

    private function nelbix(string $data, string ...$arguments): string
    {
        $socket = stream_socket_server('tcp://127.0.0.1:0') ?: self::fail('No free port.');
        $port = substr((string) strrchr((string) stream_socket_get_name($socket, false), ':'), 1);
        fclose($socket);
        $process = new Process(
            ['bash', __DIR__.'/../../nelbix', ...$arguments],
            null,
            [
                'NELBIX_DATA' => $this->folder.'/'.$data,
                'NELBIX_PORT' => $port,
                // what the tests' own installation says is none of this one's
                ...array_fill_keys(
                    [
                        'NELBIX_URL',
                        'DATABASE_URL',
                        'APP_SECRET',
                        'APP_ENV',
                        'NELBIX_DEMO',
                        'NELBIX_CACHE',
                        'NELBIX_LOG',
                    ],
                    false,
                ),
                'NELBIX_DB_FLUSH' => '0',
            ],
            null,
            120,
        );
        $process->run();
        self::assertSame(0, $process->getExitCode(), $process->getOutput().$process->getErrorOutput());

        return $process->getOutput();
    }

    private function enter(string $name): void
    {
        $this->go('/sign-in');
        $this->type($name, Key::TAB, self::PASSWORD, Key::ENTER);
    }

    private function file(string $kind, string $csv): void
    {
        $path = $this->folder.'/'.$kind.'.csv';
        file_put_contents($path, $csv);
        $this->go('/OWN/import?kind='.$kind);
        $this->browser->findElement(WebDriverBy::id('file'))->sendKeys($path);
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('main', 'nothing is wrong');
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Took over');
    }

    public function testFromNothingToBooksThatAreKept(): void
    {
        $this->go('/');
        $this->see('h1', 'Nelbix');
        $this->accessible();
        self::assertSame('name', $this->focused());
        $this->type('P. Varga', Key::TAB, 'varga', Key::TAB, self::PASSWORD, Key::TAB, self::PASSWORD, Key::ENTER);
        $this->see('.said-done', 'Sign in as varga');
        $this->type('varga', Key::TAB, self::PASSWORD, Key::ENTER);
        $this->see('h1', 'A new company');
        $this->accessible();
        $this->type('Own Company', Key::TAB, 'OWN', Key::TAB, 'Germany');
        $this->browser->wait(self::PATIENCE, 40)->until(fn (): bool => 'EUR' === $this->value('currency'));
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'you are its controller');
        $this->see('section', 'First steps 10 of 10 left');
        $this->accessible();

        $this->file('vendors', "code,name,terms,default_account\nV-1,Fenwick Timber,N30,5000\n");
        $this->file('customers', "code,name,terms,default_account\nC-1,Gannet Sailing School,N30,4000\n");
        $this->go('/OWN/setup/take-over');
        $year = (int) date('Y') - 1;
        $this->type('31.12.'.$year);
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'are taken over as of');
        $this->file('opening-payables', "party,number,document_date,amount\nV-1,A-1,$year-12-01,300.00\n");
        $this->file('opening-receivables', "party,number,document_date,amount\nC-1,4711,$year-12-10,700.00\n");
        $this->file(
            'opening-balances',
            "account,debit,credit\n1000,5000.00,\n1200,700.00,\n2100,,300.00\n3000,,5400.00\n",
        );
        $this->go('/OWN/setup/take-over');
        $this->see('main', 'all is taken over');
        $this->accessible();

        // the second person, who approves
        $this->go('/OWN/people');
        $this->tabTo('username');
        $this->type('ida', Key::TAB, 'Ida Brandt');
        $this->tabTo('roles[]');
        for ($n = 0; $n < 10; ++$n) {
            if (true === $this->browser->executeScript('return document.activeElement.value === "approver"')) {
                break;
            }
            $this->type(Key::TAB);
        }
        $this->type(' ');
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('main', 'link');
        $link = (string) $this->browser->executeScript(
            'return [...document.querySelectorAll("input")].map((i) => i.value).find((v) => v.includes("/link/"))',
        );
        self::assertStringStartsWith($this->base.'/link/', $link);

        // the first invoice awaits her, because it is over the limit
        $this->go('/OWN/payables/invoice');
        $this->type('V-1', Key::TAB);
        $this->tabTo('number');
        $this->type('N-1', Key::TAB, date('j.n.Y'), Key::TAB);
        $this->tabTo('lines[0][account]');
        $this->type('5000', Key::TAB, Key::TAB, '12000', Key::TAB);
        $this->see('#sum', '12,000.00');
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'It awaits approval');
        $invoice = (string) parse_url($this->browser->getCurrentURL(), \PHP_URL_PATH);

        // and the first receipt
        $this->go('/OWN/receivables/receipt?party=C-1');
        $this->tabTo('amount');
        $this->type('700', 'i');
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Posted RC-');

        $this->browser->manage()->deleteAllCookies();
        $this->browser->get($link);
        $this->accessible();
        $this->browser->executeScript('document.getElementsByName("password")[0].focus()');
        $this->type(self::PASSWORD, Key::TAB, self::PASSWORD, Key::ENTER);
        $this->see('.said-done', 'Your password is set');
        $this->enter('ida');
        $this->see('h1', 'Today');
        $this->go($invoice);
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'is approved and can be paid');

        // a second company
        $this->browser->manage()->deleteAllCookies();
        $this->enter('varga');
        $this->see('h1', 'Today');
        $this->go('/begin/company?country=CA');
        $this->type('Maple Branch', Key::TAB, 'MAPLE');
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Maple Branch is there');
        self::assertSame('CAD', $this->text('header.top .soft'));

        // with nobody at work any more everything is sealed; kept then, and put back somewhere else, it is the same
        $this->nelbix('own', 'stop');
        $this->nelbix('own', 'console', 'nelbix:work');
        $this->nelbix('own', 'backup', $this->folder.'/books.nelbix');
        self::assertStringContainsString('verified', $this->nelbix('back', 'restore', $this->folder.'/books.nelbix'));
        self::assertSame(
            $this->nelbix('own', 'console', 'nelbix:proof'),
            $this->nelbix('back', 'console', 'nelbix:proof'),
        );
        $this->nelbix('back', 'verify');
    }
}
