<?php

declare(strict_types=1);

namespace Nelbix\Tests\Browser;

use Facebook\WebDriver\Chrome\ChromeOptions;
use Facebook\WebDriver\Exception\JavascriptErrorException;
use Facebook\WebDriver\Exception\ScriptTimeoutException;
use Facebook\WebDriver\Exception\StaleElementReferenceException;
use Facebook\WebDriver\Exception\WebDriverException;
use Facebook\WebDriver\Remote\DesiredCapabilities;
use Facebook\WebDriver\Remote\RemoteWebDriver;
use Facebook\WebDriver\WebDriverDimension;
use Facebook\WebDriver\WebDriverKeys;
use Facebook\WebDriver\WebDriverKeys as Key;
use PHPUnit\Framework\TestCase;
use Symfony\Component\Process\Process;

/** Drives the real screens in headless Chromium, by keyboard. */
abstract class BrowserCase extends TestCase
{
    /** Seconds that something may take which happens within one here: the tests pass on a machine that is much slower, too. */
    protected const PATIENCE = 75;

    private static ?Process $driverProcess = null;
    private static int $port;
    private static ?RemoteWebDriver $shared = null;
    private static string $profile;

    protected RemoteWebDriver $browser;

    /** One browser a class: to start it takes longer than many a test. What a test leaves in it is taken away before the next. */
    public static function setUpBeforeClass(): void
    {
        $socket = stream_socket_server('tcp://127.0.0.1:0') ?: self::fail('No free port.');
        self::$port = (int) substr((string) strrchr((string) stream_socket_get_name($socket, false), ':'), 1);
        fclose($socket);
        self::$driverProcess = new Process(['chromedriver', '--port='.self::$port]);
        self::$driverProcess->start();
        $until = microtime(true) + self::PATIENCE;
        while (false === @fsockopen('127.0.0.1', self::$port) && microtime(true) < $until) {
            usleep(50_000);
        }
        self::$profile = sys_get_temp_dir().'/nelbix-browser-'.bin2hex(random_bytes(6));
    }

    public static function tearDownAfterClass(): void
    {
        self::$shared?->quit();
        self::$shared = null;
        self::$driverProcess?->stop(3);
        (new Process(['rm', '-rf', self::$profile]))->run();
    }

    private static function browser(): RemoteWebDriver
    {
        $options = new ChromeOptions();
        $options->addArguments([
            '--headless',
            '--no-sandbox',
            '--disable-gpu',
            '--disable-quic',
            '--no-first-run',
            '--disable-background-networking',
            '--disable-component-update',
            '--disable-sync',
            '--disable-dev-shm-usage',
            '--user-data-dir='.self::$profile,
        ]);
        $capabilities = DesiredCapabilities::chrome();
        $capabilities->setCapability(ChromeOptions::CAPABILITY, $options);

        return RemoteWebDriver::create('http://127.0.0.1:'.self::$port, $capabilities, 60_000, 120_000);
    }

    protected function setUp(): void
    {
        $this->browser = self::$shared ??= self::browser();
        $this->browser->manage()->window()->setSize(new WebDriverDimension(1280, 900));
    }

    protected function tearDown(): void
    {
        $errors = array_filter(
            $this->browser->manage()->getLog('browser'),
            static fn (array $l): bool => 'SEVERE' === $l['level']
                && !str_contains($l['message'], 'status of 422')
                && !str_contains($l['message'], 'status of 403')
                && 1 !== preg_match('/status of 401|Error Code 401/', $l['message'])
                && 1 !== preg_match('/status of 404|htmx:(sendAbort|afterRequest)/', $l['message']),
        );
        try {
            $this->emptied();
        } catch (WebDriverException) {
            // one that cannot be brought back to its beginning is left, and the next test has another
            self::$shared = null;
            $this->browser->quit();
        }
        self::assertSame([], array_column($errors, 'message'), 'the browser has nothing to complain about');
    }

    private function emptied(): void
    {
        $this->browser->executeScript(
            'try { changed = false; localStorage.clear(); sessionStorage.clear(); } catch { /* a page without any */ }',
        );
        $this->browser->manage()->deleteAllCookies();
        $windows = $this->browser->getWindowHandles();
        foreach (\array_slice($windows, 1) as $other) {
            $this->browser->switchTo()->window($other);
            $this->browser->close();
        }
        $this->browser->switchTo()->window($windows[0]);
        $this->browser->get('about:blank');
    }

    protected function go(string $path): void
    {
        $this->browser->get('http://127.0.0.1:'.getenv('NELBIX_PORT').$path);
        // whoever looks at the screen types when the cursor is there
        $this->until('!document.querySelector("[autofocus]") || document.activeElement !== document.body');
    }

    protected function signIn(string $username): void
    {
        $this->browser->manage()->deleteAllCookies();
        $this->go('/sign-in');
        $this->type($username, WebDriverKeys::TAB, 'tamarack', WebDriverKeys::ENTER);
        $this->see('h1', 'Today');
    }

    /** Sends keys to whatever has the focus. */
    protected function type(string ...$keys): void
    {
        foreach ($keys as $key) {
            for ($try = 1;; ++$try) {
                try {
                    $this->browser->getKeyboard()->sendKeys($key);
                    break;
                } catch (StaleElementReferenceException $e) {
                    // the page swapped the element that had the focus between asking for it and typing; nothing was typed
                    if (5 === $try) {
                        throw $e;
                    }
                    usleep(50_000);
                }
            }
            usleep(30_000);
        }
    }

    protected function chord(string $key, string ...$with): void
    {
        $keyboard = $this->browser->getKeyboard();
        array_map($keyboard->pressKey(...), $with);
        $keyboard->sendKeys($key);
        array_map($keyboard->releaseKey(...), array_reverse($with));
    }

    /** Waits until an element holds a text. It is read in one step: the page may swap the element while one looks at it. */
    protected function see(string $selector, string $text): void
    {
        $seen = $this->comes(
            <<<'JS'
            (() => {
                const found = document.querySelector(arguments[0]);
                return found !== null && (found.innerText ?? found.textContent).includes(arguments[1]);
            })()
            JS
            ,
            $selector,
            $text,
        );
        self::assertTrue(
            $seen,
            $selector.
                ' shows no “'.
                $text.
                '” but “'.
                $this->text($selector).
                '” on '.
                $this->browser->getCurrentURL(),
        );
    }

    /** Waits until an expression of the page is true. */
    protected function until(string $expression): void
    {
        self::assertTrue(
            $this->comes($expression),
            $expression.' on '.$this->browser->getCurrentURL()."\n".$this->text('main'),
        );
    }

    /** Whether an expression becomes true in time. The page itself looks again and again; what loads anew meanwhile is asked anew. */
    private function comes(string $expression, string ...$arguments): bool
    {
        $until = microtime(true) + self::PATIENCE;
        do {
            try {
                $is = $this->browser->executeAsyncScript(
                    <<<JS
                    const done = arguments[arguments.length - 1];
                    const end = performance.now() + 1500;
                    const is = () => { try { return Boolean($expression); } catch { return false; } };
                    const look = () => (is() || performance.now() > end ? done(is()) : setTimeout(look, 25));
                    look();
                    JS
                    ,
                    $arguments,
                );
            } catch (JavascriptErrorException|ScriptTimeoutException) {
                $is = false; // another page came
                usleep(50_000);
            }
        } while (true !== $is && microtime(true) < $until);

        return true === $is;
    }

    /** Waits until this page has asked what it was going to: nothing is under way, or was begun for longer than any field waits. */
    protected function quiet(): void
    {
        $this->browser->executeScript(
            <<<'JS'
            if (!window.asked) {
                window.asked = {open: document.querySelectorAll('.htmx-request').length, last: performance.now()};
                const count = (by) => () => {
                    window.asked.open = Math.max(0, window.asked.open + by);
                    window.asked.last = performance.now();
                };
                document.addEventListener('htmx:beforeSend', count(1));
                document.addEventListener('htmx:afterRequest', count(-1));
            }
            window.asked.last = performance.now();
            JS
            ,
        );
        $this->until('window.asked.open === 0 && performance.now() - window.asked.last > 650');
    }

    /** What this page asks from now on goes out so many milliseconds late. */
    protected function late(int $milliseconds): void
    {
        $this->browser->executeScript(
            <<<'JS'
            const [late] = arguments;
            const send = XMLHttpRequest.prototype.send;
            XMLHttpRequest.prototype.send = function (...with_) {
                setTimeout(() => this.readyState === 1 && send.apply(this, with_), late);
            };
            JS
            ,
            [$milliseconds],
        );
    }

    /** What the first such element shows; nothing when there is none. */
    protected function text(string $selector): string
    {
        return (string) $this->browser->executeScript(
            'const found = document.querySelector(arguments[0]); return found === null ? "" : (found.innerText '.
                '?? found.textContent).trim()',
            [$selector],
        );
    }

    /** What a field holds, or another of its properties. */
    protected function value(string $name, string $property = 'value'): string
    {
        return (string) $this->browser->executeScript(
            'return document.getElementsByName(arguments[0])[0]?.[arguments[1]] ?? ""',
            [$name, $property],
        );
    }

    protected function focused(): string
    {
        return (string) $this->browser->executeScript(
            'return document.activeElement.name || document.activeElement.tagName',
        );
    }

    /** Tabs until the field has the focus. */
    protected function tabTo(string $name, int $most = 60): void
    {
        while ($name !== $this->focused() && $most-- > 0) {
            $this->type(WebDriverKeys::TAB);
        }
        self::assertSame($name, $this->focused());
    }

    /** Tabs to the button with a value, or with a text, and presses it. */
    protected function press(string $value, string $text = ''): void
    {
        for ($k = 0; $k < 160; ++$k) {
            $this->type(WebDriverKeys::TAB);
            if (
                true ===
                $this->browser->executeScript(
                    'const a = document.activeElement; return a.tagName === "BUTTON" && (arguments[0] === "" ? '.
                        'a.textContent.includes(arguments[1]) : a.value === arguments[0])',
                    [$value, $text],
                )
            ) {
                $this->browser->getKeyboard()->sendKeys(WebDriverKeys::ENTER);

                return;
            }
        }
        self::fail('No button '.$value.$text.' on '.$this->browser->getCurrentURL());
    }

    /** No violation of WCAG 2 A and AA that axe-core can find. */
    protected function accessible(): void
    {
        $this->browser->executeScript((string) file_get_contents(__DIR__.'/../../node_modules/axe-core/axe.min.js'));
        $found = $this->browser->executeAsyncScript(
            'const done = arguments[arguments.length - 1]; axe.run(document, {runOnly: ["wcag2a", "wcag2aa", '.
                '"wcag21a", "wcag21aa"]}).then((r) => done(r.violations.map((v) => v.id + ": " + v.nodes.slice(0, '.
                '3).map((n) => n.html.slice(0, 160)).join(" | "))))',
        );
        self::assertSame([], $found, 'on '.$this->browser->getCurrentURL());
    }

    /** @return array<mixed> */
    protected function console(string ...$arguments): array
    {
        $process = new Process([\PHP_BINARY, __DIR__.'/../../bin/console', ...$arguments, '--format=json']);
        $process->mustRun();

        return json_decode($process->getOutput(), true, 64, \JSON_THROW_ON_ERROR);
    }

    /** Trial balance, aging and verify agree. */
    protected function booksAgree(): void
    {
        $verify = $this->console('nelbix:verify');
        self::assertSame([], array_filter($verify, static fn (array $r): bool => 'yes' !== $r['holds']));
        $balances = array_column($this->console('nelbix:trial-balance', '--company=BOAT'), 'balance', 'account');
        $sum = \Brick\Math\BigDecimal::zero();
        foreach ($balances as $balance) {
            $sum = $sum->plus($balance);
        }
        self::assertTrue($sum->isZero());
        // the control accounts whose items stand in the aging of a side; refunds payable among those of payables
        foreach (
            ['payables' => [['2100', '1250', '2160'], -1], 'receivables' => [['1200', '2150', '2170'], 1]] as $side => [$controls, $sign]
        ) {
            $aging = $this->console('nelbix:aging', $side, '--company=BOAT')['total']['total'];
            $ledger = \Brick\Math\BigDecimal::sum(
                ...array_map(static fn (string $account): string => $balances[$account] ?? '0', $controls),
            )->multipliedBy($sign);
            // the demo holds one deliberate bypass entry of 412.50 on receivables
            self::assertSame('receivables' === $side ? '-412.50' : '0.00', (string) $ledger->minus($aging), $side);
        }
    }

    /**
     * Posts a document of one line.
     *
     * @param array{kind: string, party: string, amount: string} $of
     */
    protected function entered(string $path, array $of): void
    {
        $this->go($path.'?kind='.$of['kind']);
        $this->type($of['party'], Key::TAB);
        if (str_contains($path, 'payables')) {
            $this->type('H'.random_int(10_000, 99_999), Key::TAB, '.', Key::TAB);
        }
        $this->chord(Key::ARROW_DOWN, Key::CONTROL);
        $this->type(str_contains($path, 'payables') ? '5000' : '4000', Key::TAB, 'of the day', Key::TAB);
        $this->type($of['amount'], Key::TAB);
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->until('document.querySelector(".said-done, .said-refused") !== null');
        self::assertSame('', $this->text('.said-refused'));
    }
}
