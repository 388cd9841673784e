<?php

declare(strict_types=1);

namespace Nelbix\Tests\Browser;

use Facebook\WebDriver\WebDriverKeys as Key;
use Symfony\Component\Process\Process;

/**
 * A run that takes longer than its page: posted in parts by the worker that ./nelbix start keeps, shown with a count, left and found
 * again.
 */
final class LongWorkTest extends BrowserCase
{
    private string $settings;

    protected function setUp(): void
    {
        parent::setUp();
        $this->settings = getenv('NELBIX_DATA').'/nelbix.env';
        // the page posts one payment at a time; the rest is the worker's
        file_put_contents($this->settings, "NELBIX_RUN_SLICE=1\n", \FILE_APPEND);
    }

    protected function tearDown(): void
    {
        file_put_contents(
            $this->settings,
            str_replace("NELBIX_RUN_SLICE=1\n", '', (string) file_get_contents($this->settings)),
        );
        $this->worker(\SIGCONT);
        parent::tearDown();
    }

    private function worker(int $signal): void
    {
        $status = new Process(['bash', __DIR__.'/../../nelbix', 'status']);
        $status->mustRun();
        self::assertSame(1, preg_match('/work runs \((\d+)\)/', $status->getOutput(), $m), $status->getOutput());
        foreach ($this->children((int) ($m[1] ?? 0)) as $loop) {
            foreach ($this->children($loop) as $worker) {
                posix_kill($worker, $signal);
            }
        }
    }

    /** @return list<int> processes that one started */
    private function children(int $process): array
    {
        $children = (string) file_get_contents(\sprintf('/proc/%1$d/task/%1$d/children', $process));

        return array_map('intval', array_values(array_filter(explode(' ', trim($children)))));
    }

    public function testTheWorkerGoesOnWithWhatThePageBegan(): void
    {
        $made = $this->console(
            'nelbix:propose',
            '--company=CHAND',
            '--bank=1000',
            '--pay-date=2026-06-15',
            '--due-through=2026-07-31',
            '--save',
        );
        self::assertGreaterThan(2, \count($made['payments']), 'the demo’s Chandlery has several vendors to pay');
        $this->signIn('soto');
        $this->go('/CHAND/payables/proposals');
        $url = (string) parse_url(
            (string) $this->browser->executeScript(
                'return [...document.querySelectorAll("table.list a")].find((a) => a.textContent.includes(arguments[0])).href',
                [$made['saved']],
            ),
            \PHP_URL_PATH,
        );
        $this->go($url);
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'is approved');
        $this->signIn('ilves');
        $this->go($url);
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'The numbers are reserved');
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'All checks came out');
        $this->worker(\SIGSTOP);
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.progress', \sprintf('1 of %d', \count($made['payments'])));
        $this->accessible();
        // left, and found again from Today
        $this->go('/CHAND');
        $this->see('main', 'run is being posted');
        $this->go('/CHAND/long-work');
        $this->see('.progress', 'Run '.$made['saved']);
        $this->accessible();
        $this->go($url);
        $this->worker(\SIGCONT);
        $this->see('.head .note', 'posted · pay date');
        $this->see('main', 'Remittance advice');
        self::assertSame(
            [],
            array_filter(
                $this->console('nelbix:verify', '--company=CHAND'),
                static fn (array $r): bool => 'yes' !== $r['holds'],
            ),
        );
    }

    /** The proposal beside other criteria, by keyboard: a row is picked and turned around. */
    public function testAProposalIsComparedAndTurnedAround(): void
    {
        $made = $this->console(
            'nelbix:propose',
            '--company=NORDIC',
            '--bank=1000',
            '--pay-date=2026-06-15',
            '--due-through=2026-06-20',
            '--save',
        );
        $this->signIn('ilves');
        $this->go('/NORDIC/payables/proposals');
        $url = (string) parse_url(
            (string) $this->browser->executeScript(
                'return [...document.querySelectorAll("table.list a")].find((a) => a.textContent.includes(arguments[0])).href',
                [$made['saved']],
            ),
            \PHP_URL_PATH,
        );
        $this->go($url.'/compare');
        $this->see('h1', 'beside other criteria');
        $this->tabTo('cash');
        $this->type('1', Key::ENTER);
        $this->see('main', 'over the cash to spend');
        $this->accessible();
        $this->browser->executeScript('document.activeElement.blur()');
        $picked = 'return document.querySelectorAll("input[name=\'items[]\']:checked").length';
        for ($k = 0; $k < 30 && 0 === (int) $this->browser->executeScript($picked); ++$k) {
            $this->type(Key::ARROW_DOWN, ' ');
        }
        self::assertSame(1, (int) $this->browser->executeScript($picked));
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', '1 turned around');
        $this->see('table.review', 'dropped');
    }
}
