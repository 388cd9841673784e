<?php

declare(strict_types=1);

namespace Nelbix\Tests\Browser;

use Facebook\WebDriver\WebDriverKeys as Key;

/**
 * A clerk's day with money in, by keyboard: ten receipts one after the other, each of another kind, the deposit, a bounce, and the undo of
 * what was placed; a prepayment from its request to the invoice; a debt written off and recovered. The books agree at the end.
 */
final class DayOfReceiptsTest extends BrowserCase
{
    private const CUSTOMERS = [
        'full' => 'USD',
        'part' => 'USD',
        'short' => 'USD',
        'late' => 'USD',
        'credit' => 'USD',
        'two' => 'USD',
        'other' => 'USD',
        'euro' => 'EUR',
        'prepaid' => 'USD',
        'refund' => 'USD',
        'asked' => 'USD',
        'bad' => 'USD',
        'gone' => 'USD',
        'both' => 'USD',
    ];

    /** @var array<string, array{code: string, number: string}> by name */
    private static array $of = [];

    /** Customers of the test's own, each with an invoice; nothing of the demo is used up by it. */
    private function customers(): void
    {
        if ([] !== self::$of) {
            return;
        }
        $run = (string) random_int(1000, 9999);
        $customers = "code,name,terms,default_account,currency\n";
        $invoices = "party,number,kind,document_date,account,amount,terms,currency\n";
        foreach (self::CUSTOMERS as $name => $currency) {
            $code = strtoupper('D'.$run.substr($name, 0, 4));
            self::$of[$name] = ['code' => $code, 'number' => 'DAY-'.$run.'-'.strtoupper($name)];
            $customers .= "$code,Day $name $run,N30,4000,$currency\n";
            $terms = 'late' === $name ? '2-10-N30' : 'N30';
            $invoices .= "$code,".self::$of[$name]['number'].",invoice,2026-06-01,4000,500.00,$terms,$currency\n";
        }
        $invoices .= self::$of['credit']['code'].',DAY-'.$run."-CN,credit_note,2026-06-02,4000,120.00,N30,USD\n";
        foreach (['customers' => $customers, 'customer-invoices' => $invoices] as $kind => $csv) {
            $path = (string) tempnam(sys_get_temp_dir(), 'nelbix-day');
            file_put_contents($path, $csv);
            $this->console('nelbix:import', $kind, $path, '--company=BOAT');
            unlink($path);
        }
    }

    /** Customer and amount of the next receipt; the cursor stays in the amount. */
    private function begin(string $customer, string $amount): void
    {
        $this->until('document.activeElement && document.activeElement.name === "party"');
        $this->type('unknown' === $customer ? '?' : self::$of[$customer]['code'], Key::TAB, $amount);
        $this->see('#n-amount', number_format((float) $amount, 2));
    }

    /** Takes the idea while the cursor is in the amount, and sees why. */
    private function idea(string $why): void
    {
        $this->see('#board', self::stands($why));
        $this->type('i');
        $this->see('.idea b', $why);
    }

    private static function stands(string $why): string
    {
        return 'oldest first' === $why ? 'Take the idea' : 'Nelbix would place it so';
    }

    private function choose(string $name, string $value): void
    {
        $this->browser->executeScript(
            'document.querySelector(`input[name="${arguments[0]}"][value="${arguments[1]}"], input[name^="${arguments[0]}["][value="'.
                '${arguments[1]}"]`).focus()',
            [$name, $value],
        );
        $this->type(' ');
    }

    private function say(string $name, string $text): void
    {
        $this->until("document.querySelector('[name^=\"$name\"]')");
        $this->browser->executeScript("document.querySelector('[name^=\"$name\"]').focus()");
        $this->type($text, Key::TAB);
    }

    private function postAndNext(string $said): void
    {
        // nothing is loaded: what was said of the one before would be read again
        $this->browser->executeScript('document.querySelectorAll(".said-done").forEach((said) => said.remove())');
        $this->chord(Key::ENTER, Key::CONTROL, Key::SHIFT);
        $this->see('.said-done', $said);
    }

    public function testADayOfTenReceipts(): void
    {
        $this->customers();
        $this->signIn('okafor');
        $this->go('/BOAT/receivables/receipt-batches');
        $this->accessible();
        $this->type('Day '.random_int(100, 999), Key::TAB, '10', Key::TAB);
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.head', '0 of 10 receipts');
        $this->accessible();

        // 1 in full
        $this->begin('full', '500');
        $this->idea('one amount fits');
        $this->postAndNext('Receivables fell by 500.00');
        // 2 in part: their text names it
        $this->begin('part', '200');
        $this->type(Key::TAB, self::$of['part']['number']);
        $this->chord(Key::TAB, Key::SHIFT);
        $this->idea('their text names it');
        $this->postAndNext('Receivables fell by 200.00');
        // 3 short, the rest a claim
        $this->begin('short', '430');
        $this->type(Key::TAB, self::$of['short']['number']);
        $this->chord(Key::TAB, Key::SHIFT);
        $this->idea('their text names it');
        $this->see('.shelf', 'stays short of 70.00');
        $this->choose('rest', 'claim');
        $this->say('rest_reason', 'the varnish was scratched');
        $this->postAndNext('70.00 USD is a claim');
        // 4 the discount, though late
        $this->begin('late', '490');
        $this->idea('one amount fits less the discount that lapsed');
        $this->see('.shelf', 'this is the 2 % that lapsed on 11 Jun 2026');
        $this->choose('rest', 'late');
        $this->say('rest_reason', 'agreed by telephone');
        $this->see('#panel', 'Discounts allowed');
        $this->postAndNext('Receivables fell by 500.00');
        // 5 less a credit
        $this->begin('credit', '380');
        $this->idea('only one sum fits');
        $this->postAndNext('Receivables fell by 380.00');
        // 6 two customers
        $this->begin('two', '1000');
        $this->browser->executeScript('document.querySelector("#also_more").focus()');
        $this->type(self::$of['other']['code'], Key::TAB);
        $this->see('#board', self::$of['other']['number']);
        $this->browser->executeScript('document.querySelector("#amount").focus()');
        $this->idea('only one sum fits');
        $this->postAndNext('Receivables fell by 1,000.00');
        // 7 euros, and what reached the bank
        $this->begin('euro', '500');
        $this->idea('one amount fits');
        $this->say('bank_amount', '530');
        $this->see('#panel', 'Realised exchange differences');
        $this->postAndNext('RC-26-');
        // 8 nobody knows who
        $unknown = number_format(random_int(2_000, 9_900) / 100, 2, '.', '');
        $this->begin('unknown', $unknown);
        $this->postAndNext('Unidentified receipts rose by '.$unknown);
        // 9 over, a prepayment
        $this->begin('prepaid', '620');
        $this->type(Key::TAB, self::$of['prepaid']['number']);
        $this->chord(Key::TAB, Key::SHIFT);
        $this->idea('their text names it');
        $this->choose('kind', 'prepayment');
        $this->see('#panel', 'Customer prepayments');
        $this->postAndNext('120.00 USD is a prepayment');
        // 10 over, given back
        $this->begin('refund', '560');
        $this->type(Key::TAB, self::$of['refund']['number']);
        $this->chord(Key::TAB, Key::SHIFT);
        $this->idea('their text names it');
        $this->choose('kind', 'refund');
        $this->say('kind_reason', 'paid twice');
        $this->postAndNext('efunds payable rose by 60.00');

        $this->see('.head', '10 of 10 receipts');
        $this->booksAgree();
    }

    public function testWhatWasPlacedIsUndoneAndAReceiptBounces(): void
    {
        $this->customers();
        $this->signIn('okafor');
        $this->go('/BOAT/receivables/receipt');
        $this->begin('bad', '500');
        $this->idea('one amount fits');
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Posted RC-26-');
        $this->accessible();
        $this->browser->executeScript('document.querySelector("details.undo summary").focus()');
        $this->type(Key::ENTER, Key::TAB, Key::TAB, 'the wrong customer', Key::TAB, Key::ENTER);
        $this->see('.said-done', 'The settlement is undone');
        $this->browser->executeScript('document.querySelector("[data-dialog=take-back]").focus()');
        $this->type(Key::ENTER);
        $this->until('document.querySelector("dialog[open]")');
        $this->browser->executeScript('document.querySelector("dialog[open] [name=reason]").focus()');
        $this->type('no funds');
        $this->press('', 'Take back');
        $this->see('main', 'bounced');
        $this->booksAgree();
    }

    public function testABadDebtAndWhatComesOfItAfterAll(): void
    {
        $this->customers();
        $this->signIn('okafor');
        $this->go('/BOAT/receivables/settle?party='.self::$of['gone']['code']);
        $item = $this->browser->executeScript(
            'return document.querySelector("[data-side=owed] tr[data-row]").dataset.row',
        );
        $this->go('/BOAT/receivables/item/'.$item.'/write-off');
        self::assertSame('amount', $this->focused());
        $this->chord('a', Key::CONTROL);
        $this->type('40', Key::TAB);
        $this->say('reason', 'the yard is closed');
        $this->see('#panel', '40.00');
        $this->accessible();
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', '40.00 USD of '.self::$of['gone']['number'].' is written off: bad debt');
        $this->go('/BOAT/receivables/receipt');
        $this->begin('gone', '30');
        $this->see('.shelf', 'stays over by 30.00');
        $this->choose('kind', 'recovered');
        $this->say('kind_reason', 'the estate paid');
        $this->see('#panel', 'recovered');
        $this->postAndNext('Posted RC-26-');
        $this->booksAgree();
    }

    public function testWhatABusinessOwesIsSetOffAgainstWhatItIsOwed(): void
    {
        $this->customers();
        $code = self::$of['both']['code'];
        foreach (
            [
                'vendors' => "code,name,terms,default_account\n$code,Day both,N30,5000\n",
                'vendor-invoices' => "party,number,kind,document_date,account,amount,terms,currency\n".
                    "$code,DAY-$code,invoice,2026-06-02,5000,200.00,N30,USD\n",
            ] as $kind => $csv
        ) {
            $path = (string) tempnam(sys_get_temp_dir(), 'nelbix-day');
            file_put_contents($path, $csv);
            $this->console('nelbix:import', $kind, $path, '--company=BOAT');
            unlink($path);
        }
        $this->signIn('brandt');
        $this->go('/BOAT/receivables/parties?q='.$code);
        $this->browser->executeScript('document.querySelector("tbody a[href*=\'/receivables/\']").focus()');
        $this->type(Key::ENTER);
        $this->see('main', 'One business');
        $this->browser->executeScript('document.querySelector("#linked").focus()');
        $this->type($code, Key::ENTER);
        $this->see('main', 'Also our vendor '.$code);
        $this->browser->executeScript('document.querySelector("a[href*=contra]").focus()');
        $this->type(Key::ENTER);
        $this->see('h1', 'Set off');
        $this->accessible();
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Payables fell by 200.00');
        $this->see('.said-done', 'eceivables fell by 200.00');
        $this->booksAgree();
    }

    public function testChecksAndCashGoToTheBankOnOneSlip(): void
    {
        $this->signIn('okafor');
        $this->go('/BOAT/receivables/on-hand');
        $this->accessible();
        $this->type(Key::ARROW_DOWN, ' ', Key::ARROW_DOWN, ' ');
        $this->see('.picked-sum', '2 picked');
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Closed DS-26-');
        $this->accessible();
        $this->browser->executeScript('document.querySelector("footer [name=reason]").focus()');
        $this->type('one check was not signed', Key::TAB, Key::ENTER);
        $this->see('.said-done', 'is undone');
        $this->booksAgree();
    }

    public function testAPrepaymentFromItsRequestToTheInvoice(): void
    {
        $this->customers();
        $this->signIn('okafor');
        $this->go('/BOAT/receivables/prepayments');
        $this->type(self::$of['asked']['code'], Key::TAB, '300');
        $this->browser->executeScript('document.querySelector("[name=text]").focus()');
        $this->type('a new mast');
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'for 300.00 USD');
        $this->accessible();
        $this->browser->executeScript('document.querySelector(".row-acts a").focus()');
        $this->type(Key::ENTER);
        $this->see('.shelf', 'Asked for by');
        $this->accessible();
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Customer prepayments rose by 300.00');
        $this->go('/BOAT/receivables/settle?party='.self::$of['asked']['code']);
        $this->see('#board', self::$of['asked']['number']);
        foreach (['money', 'owed'] as $side) {
            $this->browser->executeScript('document.querySelector("[data-side='.$side.'] tr[data-row]").focus()');
            $this->type(Key::ENTER);
            $this->until(
                'document.querySelector("[data-side='.$side.'] tr[data-row] input[name^=placed]").value !== ""',
            );
        }
        $this->see('#beam', 'left to place 0.00');
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->see('.said-done', 'Settled 300.00 USD');
        $this->booksAgree();
    }
}
