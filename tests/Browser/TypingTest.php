<?php

declare(strict_types=1);

namespace Nelbix\Tests\Browser;

use Facebook\WebDriver\WebDriverKeys as Key;
use PHPUnit\Framework\Attributes\DataProvider;

/** Whoever types fast finds what was typed: no answer moves the focus or changes the field in use. */
final class TypingTest extends BrowserCase
{
    /** 12 keys a second. */
    private const PAUSE = 83_000;

    /** @return iterable<string, array{string, string, 2?: bool}> who, a screen with a form, and whether its answers come late */
    public static function forms(): iterable
    {
        yield 'what is due' => ['ilves', '/BOAT/payables/proposal'];
        yield 'a vendor invoice' => ['ilves', '/BOAT/payables/invoice'];
        yield 'a customer invoice' => ['okafor', '/BOAT/receivables/invoice'];
        yield 'a receipt' => ['okafor', '/BOAT/receivables/receipt?party=C-0001'];
        yield 'paying by hand' => ['ilves', '/BOAT/payables/payment?party=V-0041'];
        yield 'settling' => ['okafor', '/BOAT/receivables/settle?party=C-0001'];
        yield 'a vendor' => ['ilves', '/BOAT/payables/party'];
        yield 'a customer' => ['okafor', '/BOAT/receivables/party'];
        yield 'a delivery' => ['reyes', '/BOAT/deliveries/new'];
        yield 'an order' => ['haven', '/BOAT/orders/new'];
        yield 'a batch' => ['ilves', '/BOAT/payables/batches'];
        yield 'terms' => ['brandt', '/BOAT/setup/terms/new'];
        yield 'a person' => ['brandt', '/BOAT/people'];
        yield 'settings' => ['brandt', '/BOAT/setup'];
        yield 'statements' => ['okafor', '/BOAT/receivables/statements?what=moves'];
        yield 'finance charges' => ['okafor', '/BOAT/receivables/charges'];
        yield 'what is due, answered late' => ['ilves', '/BOAT/payables/proposal', true];
        yield 'a vendor invoice, answered late' => ['ilves', '/BOAT/payables/invoice', true];
        yield 'a receipt, answered late' => ['okafor', '/BOAT/receivables/receipt?party=C-0001', true];
        yield 'a batch, answered late' => ['ilves', '/BOAT/payables/batches', true];
    }

    #[DataProvider('forms')]
    public function testWhatIsTypedStaysWhereItWasTyped(string $who, string $path, bool $late = false): void
    {
        $this->signIn($who);
        $this->go($path);
        if ($late) {
            // what was asked goes out when more has been typed, so its answer is to what stood there before
            $this->late(450);
        }
        $this->browser->executeScript(
            <<<'JS'
            window.fields = [...document.querySelectorAll('main form input')].filter(
                (f) =>
                    f.offsetParent !== null && !f.closest('details:not([open])') && !f.readOnly && !f.disabled
                    && /^(text|search|email|number|)$/.test(f.type)
                    // another party has other items, other words find other orders
                    && !(f.name === 'party' && location.search) && f.name !== 'find',
            ).slice(0, 14);
            JS
            ,
        );
        $count = (int) $this->browser->executeScript('return window.fields.length');
        self::assertGreaterThan(0, $count, 'there is something to type into');
        for ($k = 0; $k < $count; ++$k) {
            $name = (string) $this->browser->executeScript(
                'const f = window.fields[arguments[0]]; if (!f.isConnected) return "gone"; f.focus(); f.select(); return f.name || f.id',
                [$k],
            );
            self::assertNotSame('gone', $name, 'the field after '.($k - 1).' was taken away');
            $typed = '';
            foreach (str_split('12345'.$k % 10) as $key) {
                $began = microtime(true);
                $this->browser->getKeyboard()->sendKeys($key);
                $typed .= $key;
                usleep(max(0, self::PAUSE - (int) ((microtime(true) - $began) * 1_000_000)));
            }
            [$value, $has] = (array) $this->browser->executeScript(
                'const f = window.fields[arguments[0]]; return [f.value, document.activeElement === f]',
                [$k],
            );
            self::assertTrue($has, 'the focus stays in '.$name);
            self::assertSame($typed, $value, $name);
            $this->browser->getKeyboard()->sendKeys(Key::TAB);
        }
        // nothing is kept that this test typed
        $this->browser->executeScript('changed = false; window.fields = null');
    }
}
