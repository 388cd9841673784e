<?php

declare(strict_types=1);

namespace Nelbix\Tests\Browser;

use Facebook\WebDriver\Remote\LocalFileDetector;
use Facebook\WebDriver\WebDriverBy;
use Facebook\WebDriver\WebDriverKeys as Key;

/** A file of 1,100 invoices: checked, taken over by the workers in slices, and seen. */
final class LongFileTest extends BrowserCase
{
    public function testALongFileIsTakenOver(): void
    {
        $path = sys_get_temp_dir().'/nelbix-long-'.bin2hex(random_bytes(4)).'.csv';
        $csv = "party,number,document_date,account,amount\n";
        for ($n = 1; $n <= 1100; ++$n) {
            $csv .= \sprintf("V-%04d,LONG-%d,2026-06-12,5000,%d.37\n", 1 + ($n % 9), $n, 4000 + $n);
        }
        file_put_contents($path, $csv);
        $this->signIn('ilves');
        $this->go('/BOAT/import?kind=vendor-invoices');
        $this->accessible();
        $field = $this->browser->findElement(WebDriverBy::id('file'));
        $field->setFileDetector(new LocalFileDetector());
        $field->sendKeys($path);
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->until('document.querySelector("#take") !== null');
        $this->see('main', '1100 vendor invoices would be made');
        $this->accessible();
        $this->chord(Key::ENTER, Key::CONTROL);
        $this->until('document.querySelector(".progress") !== null || document.body.innerText.includes("were made")');
        $this->until('document.body.innerText.includes("1100 vendor invoices were made")');
        unlink($path);
        $this->go('/BOAT/import/lot/1');
        $this->see('main', '1100 of 1100 documents are posted');
        $this->accessible();
        $this->browser->findElement(WebDriverBy::linkText('See them'))->sendKeys(Key::ENTER);
        $this->see('main', 'all of import 1');
        $this->booksAgree();
    }
}
