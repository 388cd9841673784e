<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Platform\ChosenColumns;
use Nelbix\Core\Ledger\Side;

/** Lists show the columns that have something in them, of those that a person wants. */
final class ColumnsTest extends ScreenCase
{
    /** @return list<string> what the heads of the list say */
    private function heads(string $path): array
    {
        return $this->page($path)->filter('table.list thead th')->each(static fn ($th): string => trim($th->text()));
    }

    public function testAColumnThatIsEmptyForAllRowsIsNotThere(): void
    {
        $this->invoice(Side::Payables, '10.00', ['number' => 'A-1', 'kind' => 'credit_note']);
        $heads = $this->heads('/TEST/payables/items');
        self::assertContains('Open', $heads);
        self::assertNotContains('Discount', $heads, 'a credit note gives none');
        $page = $this->page('/TEST/payables/items');
        $cells = $page->filter('table.list tbody tr')->first()->filter('td');
        self::assertCount(\count($heads), $cells);
        self::assertStringContainsString('10.00', trim($page->filter('table.list tbody tr td')->last()->text()));
        $span = 0;
        foreach ($page->filter('table.list tfoot td') as $td) {
            self::assertInstanceOf(\DOMElement::class, $td);
            $span += max(1, (int) $td->getAttribute('colspan'));
        }
        self::assertSame(\count($heads), $span, 'the foot stands under its columns');
        self::assertContains('Discount', $this->heads('/TEST/receivables/items'), 'a list without rows has its heads');
    }

    public function testWhatAPersonDoesNotWantIsNotThereForThem(): void
    {
        $this->invoice(Side::Payables, '10.00', ['number' => 'A-1']);
        $form = $this->page('/TEST/payables/items')->filter('details.columns form')->form();
        $values = $form->getPhpValues();
        self::assertContains('their_number', $values['columns']);
        $this->browser->request('POST', $form->getUri(), [...$values, 'columns' => ['vendor', 'number', 'open']]);
        self::assertSame(['Vendor', 'Number', '', 'Open'], $this->heads('/TEST/payables/items'));
        self::assertContains('Their number', $this->heads('/TEST/payables/documents'), 'another list keeps its own');
        self::assertNull(
            self::get(ChosenColumns::class)->of($this->approver, 'payables-items'),
            'so does another person',
        );
        $this->browser->request('POST', $form->getUri(), [...$values, 'columns' => []]);
        self::assertContains('Their number', $this->heads('/TEST/payables/items'), 'none is as nobody has chosen');
    }
}
