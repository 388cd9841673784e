<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

/** The pages of orders and deliveries: what they say is what was posted, and what they carry from outside leads nowhere else. */
final class GoodsPagesTest extends ScreenCase
{
    private function delivered(): int
    {
        $this->post('/TEST/deliveries/new', '/TEST/deliveries/new', [
            'party' => 'V-1',
            'delivered_on' => self::DAY,
            'note_number' => 'DN-7',
            'lines' => [['account' => '1400', 'quantity' => '10', 'price' => '12.50', 'text' => 'oak']],
        ]);

        return (int) $this->db()->fetchOne('SELECT MAX(id) FROM delivery');
    }

    public function testGoodsGoBackAndThatIsUndone(): void
    {
        $id = $this->delivered();
        $line = (int) $this->db()->fetchOne('SELECT id FROM delivery_line WHERE delivery_id = ?', [$id]);
        $page = $this->post("/TEST/deliveries/$id", "/TEST/not-invoiced/back/$id", [
            'lines' => [$line => ['quantity' => '4']],
            'reason' => 'split planks',
        ]);
        self::assertStringContainsString(
            'Sent back with GS-26-00001. Received-not-invoiced fell by 50.00 USD.',
            $page->text(),
        );
        self::assertSame([7500, -7500], [$this->balance('1400'), $this->balance('2110')]);
        $slip = (int) $this->db()->fetchOne('SELECT MAX(id) FROM goods_slip');
        // a form from elsewhere leads to no page, and to no error either
        $this->post("/TEST/deliveries/$id", "/TEST/not-invoiced/slip/$slip/undo", ['delivery' => '-1', 'reason' => '']);
        self::assertSame(404, $this->browser->getResponse()->getStatusCode());
        $undone = $this->post("/TEST/deliveries/$id", "/TEST/not-invoiced/slip/$slip/undo", [
            'delivery' => (string) $id,
            'reason' => 'they were whole',
        ]);
        self::assertStringContainsString(
            'GS-26-00001 is undone. Received-not-invoiced rose by 50.00 USD.',
            $undone->text(),
        );
        self::assertSame(12500, $this->balance('1400'));
    }

    /** The form of a matched invoice that is put right carries its match, and a row that was emptied is no line any more. */
    public function testAMatchedInvoiceIsPutRightOnItsPage(): void
    {
        $id = $this->delivered();
        $line = (string) $this->db()->fetchOne('SELECT id FROM delivery_line WHERE delivery_id = ?', [$id]);
        $row = ['delivery_line' => $line, 'account' => '1400', 'text' => 'oak', 'amount' => '10 × 12.60'];
        $this->post('/TEST/payables/invoice', '/TEST/payables/invoice', [
            'party' => 'V-1',
            'number' => 'M-7',
            'document_date' => self::DAY,
            'lines' => [$row, ['delivery_line' => $line, 'account' => '1400', 'text' => '', 'amount' => '']],
        ]);
        self::assertSame([0, 100], [$this->balance('2110'), $this->balance('5800')]);
        $document = (int) $this->db()->fetchOne("SELECT MAX(id) FROM document WHERE kind = 'invoice'");
        $form = $this->page("/TEST/payables/document/$document/put-right")
            ->filter('form#invoice')
            ->form();
        self::assertSame($line, self::value($form, 'lines[0][delivery_line]'));
        $form['lines[0][amount]'] = '10 × 12.55';
        $form['reason'] = 'the price';
        $this->browser->submit($form);
        self::assertSame(303, $this->browser->getResponse()->getStatusCode());
        self::assertSame([12500, 0, 50, -12550], array_map($this->balance(...), ['1400', '2110', '5800', '2100']));
        $another = $this->page('/TEST/payables/invoice?like='.$document)
            ->filter('form#invoice')
            ->form();
        self::assertSame(
            '',
            self::value($another, 'lines[0][delivery_line]'),
            'another one like it takes goods of its own',
        );
    }

    /** The receiver reads that it is claimed, and not for how much; who sees payables reads what was posted. */
    public function testWhatIsSaidOfGoodsThatWereInvoiced(): void
    {
        $id = $this->delivered();
        $line = (string) $this->db()->fetchOne('SELECT id FROM delivery_line WHERE delivery_id = ?', [$id]);
        $this->post('/TEST/payables/invoice', '/TEST/payables/invoice', [
            'party' => 'V-1',
            'number' => 'M-8',
            'document_date' => self::DAY,
            'lines' => [['delivery_line' => $line, 'account' => '1400', 'text' => 'oak', 'amount' => '10 × 12.50']],
            '_action' => 'post',
        ]);
        $back = ['lines' => [$line => ['quantity' => '4']], 'reason' => 'split planks'];
        $this->as('receiver');
        $said = $this->post("/TEST/deliveries/$id", "/TEST/not-invoiced/back/$id", $back)
            ->filter('.said-done')
            ->text();
        self::assertSame('Sent back with GS-26-00001. What was invoiced is claimed of the vendor.', $said);
        self::assertStringNotContainsString(
            'VD-26',
            $this->page("/TEST/deliveries/$id")
                ->filter('main')
                ->text(),
        );
        $this->as('controller');
        $said = $this->post("/TEST/deliveries/$id", "/TEST/not-invoiced/back/$id", $back)
            ->filter('.said-done')
            ->text();
        self::assertStringContainsString(
            'VD-26-00002 claims 50.00 USD of the vendor; payables fell by as much.',
            $said,
        );
        $slip = $this->idOf('goods_slip');
        $undone = $this->post("/TEST/deliveries/$id", "/TEST/not-invoiced/slip/$slip/undo", [
            'delivery' => (string) $id,
            'reason' => 'they were whole',
        ]);
        self::assertSame(
            'GS-26-00002 is undone. VD-26-00002 is reversed, which claimed 50.00 USD; payables rose by as much.',
            $undone->filter('.said-done')->text(),
        );
    }

    /** Goods that an invoice waited for do not raise what is received and not invoiced, and the message does not say so. */
    public function testWhatIsSaidOfGoodsThatWereWaitedFor(): void
    {
        $this->post('/TEST/orders/new', '/TEST/orders/new', [
            'party' => 'V-1',
            'ordered_on' => '2026-06-01',
            'lines' => [['account' => '1400', 'text' => 'larch', 'quantity' => '4', 'price' => '9.50']],
        ]);
        $line = (string) $this->idOf('purchase_order_line');
        $this->post('/TEST/payables/invoice', '/TEST/payables/invoice', [
            'party' => 'V-1',
            'number' => 'W-1',
            'document_date' => self::DAY,
            'lines' => [['order_line' => $line, 'account' => '1400', 'text' => 'larch', 'amount' => '3 × 10']],
            '_action' => 'post',
        ]);
        $came = ['delivered_on' => self::DAY, 'lines' => [['order_line' => $line, 'quantity' => '4']]];
        $said = $this->post('/TEST/deliveries/new', '/TEST/deliveries/new', $came)->filter('.said-done')->text();
        self::assertSame(
            'Recorded GR-26-00001. Received-not-invoiced rose by 9.50 USD, until the vendor’s invoice comes. '.
                'Goods of 28.50 USD were invoiced before they came. Invoiced-not-received fell by 30.00 USD.',
            $said,
        );
        $this->as('receiver');
        $id = $this->idOf('delivery');
        $back = ['reason' => 'of somebody else', 'date' => self::DAY];
        self::assertSame(
            'GR-26-00001 is reversed as of 15 Jun 2026. Received-not-invoiced fell by 9.50 USD. Its invoices wait for goods again.',
            $this->post("/TEST/deliveries/$id", "/TEST/deliveries/$id/reverse", $back)
                ->filter('.said-done')
                ->text(),
        );
        $said = $this->post('/TEST/deliveries/new', '/TEST/deliveries/new', $came)->filter('.said-done')->text();
        self::assertStringNotContainsString('30.00', $said, 'the receiver does not read what is invoiced');
    }

    /** The vendor's credit note that names our claim: panel and message say what changes by both. */
    public function testWhatIsSaidOfACreditNoteThatTakesAClaimsPlace(): void
    {
        $this->testWhatIsSaidOfGoodsThatWereInvoiced();
        $credit = [
            'party' => 'V-1',
            'kind' => 'credit_note',
            'number' => 'CR-8',
            'document_date' => self::DAY,
            'against' => 'VD-26-00001',
            'lines' => [['account' => '1400', 'text' => 'oak', 'amount' => '48.00']],
        ];
        $panel = $this->post('/TEST/payables/invoice', '/TEST/payables/invoice/live', $credit)->text();
        self::assertStringContainsString('What changes by it', $panel);
        $said = $this->post('/TEST/payables/invoice', '/TEST/payables/invoice', ['_action' => 'post'] + $credit);
        self::assertStringContainsString(
            'Posted VC-26-00001. Payables rose by 2.00 USD.',
            $said->filter('.said-done')->text(),
        );
        self::assertStringContainsString('It takes the place of VD-26-00001', $said->filter('.said-done')->text());
    }

    /** What was agreed and what arrived stand in the trail with their amounts, and lead to their pages. */
    public function testTheTrailBeginsWithOrderAndDelivery(): void
    {
        $this->post('/TEST/orders/new', '/TEST/orders/new', [
            'party' => 'V-1',
            'ordered_on' => '2026-06-01',
            'lines' => [['account' => '1400', 'text' => 'larch', 'quantity' => '4', 'price' => '9.50']],
        ]);
        $line = (int) $this->db()->fetchOne('SELECT id FROM purchase_order_line');
        $this->post('/TEST/deliveries/new', '/TEST/deliveries/new', [
            'delivered_on' => '2026-06-05',
            'lines' => [['order_line' => (string) $line, 'quantity' => '3']],
        ]);
        $came = (int) $this->db()->fetchOne('SELECT id FROM delivery_line');
        $row = ['account' => '1400', 'text' => 'larch'];
        $this->post('/TEST/payables/invoice', '/TEST/payables/invoice', [
            'party' => 'V-1',
            'number' => 'T-1',
            'document_date' => self::DAY,
            'lines' => [
                ['delivery_line' => (string) $came, 'amount' => '3 × 9.50'] + $row,
                ['order_line' => (string) $line, 'amount' => '1 × 9.50'] + $row,
            ],
            '_action' => 'post',
        ]);
        $id = (int) $this->db()->fetchOne("SELECT id FROM document WHERE state = 'posted'");
        $trail = $this->page("/TEST/payables/document/$id/trail")
            ->filter('svg.trail a')
            ->extract(['aria-label', 'href']);
        self::assertContains(
            [
                'PO-26-00001, agreed 38.00 USD, 1 Jun 2026 to 15 Jun 2026',
                '/TEST/orders/'.$this->idOf('purchase_order'),
            ],
            $trail,
        );
        self::assertContains(
            [
                'GR-26-00001, arrived 28.50 USD, 5 Jun 2026 to 15 Jun 2026',
                '/TEST/deliveries/'.$this->idOf('delivery'),
            ],
            $trail,
        );
    }

    private function idOf(string $table): int
    {
        return (int) $this->db()->fetchOne("SELECT MAX(id) FROM $table");
    }

    public function testWhatIsAccruedIsListedAndCleared(): void
    {
        $id = $this->delivered();
        $line = (int) $this->db()->fetchOne('SELECT id FROM delivery_line WHERE delivery_id = ?', [$id]);
        $vendor = (int) $this->db()->fetchOne('SELECT party_id FROM delivery WHERE id = ?', [$id]);
        $list = $this->page('/TEST/not-invoiced');
        self::assertStringContainsString('holds the same on 15 Jun 2026', $list->filter('tfoot')->text());
        self::assertStringContainsString('125.00', $list->filter('tfoot')->text());
        self::assertStringContainsString(
            'Nothing was received',
            $this->page('/TEST/not-invoiced?as_of=2026-06-14')->text(),
        );
        $this->page("/TEST/not-invoiced/party/$vendor/letter.pdf");
        $page = $this->post("/TEST/not-invoiced?vendor=$vendor", '/TEST/not-invoiced/clear', [
            'vendor' => (string) $vendor,
            'lines' => [(string) $line],
            'reason' => 'a sample, it was free',
        ]);
        self::assertStringContainsString(
            'Cleared with GS-26-00001. Received-not-invoiced fell by 125.00 USD.',
            $page->text(),
        );
        self::assertSame([12500, 0, -12500], array_map($this->balance(...), ['1400', '2110', '5800']));
    }

    public function testAnOrderIsEnteredPrintedAndReceived(): void
    {
        $this->as('buyer');
        $page = $this->post('/TEST/orders/new', '/TEST/orders/new', [
            'party' => 'V-1',
            'lines' => [
                ['account' => '1400', 'text' => 'larch', 'quantity' => '4', 'unit' => 'metre', 'price' => '9.50'],
            ],
        ]);
        self::assertStringContainsString('Ordered for 38.00 USD: PO-26-00001.', $page->text());
        $id = (int) $this->db()->fetchOne('SELECT MAX(id) FROM purchase_order');
        $this->page("/TEST/orders/$id/order.pdf");
        self::assertStringContainsString('38.00', $this->page('/TEST/orders')->filter('table.list')->text());
        foreach (['PO-26-00001', 'po 26 1'] as $typed) {
            $found = $this->page('/TEST/search?q='.urlencode($typed))->filter('table.found');
            self::assertStringContainsString('PO-26-00001', $found->text(), $typed);
        }
        $this->as('receiver');
        $form = $this->page('/TEST/deliveries/new?find=PO-26-00001');
        self::assertStringContainsString('larch', $form->filter('#ordered')->text());
        self::assertSame(0, $form->filter('.rail a:contains("Payables")')->count(), 'the receiver sees no payables');
    }
}
