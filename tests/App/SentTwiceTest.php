<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use PHPUnit\Framework\Attributes\DataProvider;

/** A page that is sent twice is posted once, through every door; the same page with other figures is refused. */
final class SentTwiceTest extends ScreenCase
{
    /** @return iterable<string, array{string}> */
    public static function doors(): iterable
    {
        foreach (['invoice', 'receipt', 'payment', 'prepayment', 'settle', 'delivery', 'proposal'] as $door) {
            yield $door => [$door];
        }
    }

    #[DataProvider('doors')]
    public function testOnceAndNotWithOtherFigures(string $door): void
    {
        [$page, $path, $fields, $other] = $this->form($door);
        $before = $this->made();
        $this->post($page, $path, $fields + ['_key' => 'one page']);
        $once = $this->made();
        self::assertNotSame($before, $once, 'it posts at all');
        $this->post($page, $path, $fields + ['_key' => 'one page']);
        self::assertSame($once, $this->made(), 'sent twice, posted once');
        self::assertLessThan(400, $this->browser->getInternalResponse()->getStatusCode());

        $this->post($page, $path, $other + $fields + ['_key' => 'one page']);
        self::assertSame($once, $this->made(), 'other figures under the same key are not posted');
        self::assertStringContainsString('posted once already', (string) $this->browser->getInternalResponse());
    }

    /** @return array<string, int> how many there are of what can be made */
    private function made(): array
    {
        $made = [];
        foreach (['document', 'settlement', 'delivery', 'proposal', 'journal_entry'] as $table) {
            $made[$table] = (int) $this->db()->fetchOne('SELECT COUNT(*) FROM '.$table);
        }

        return $made;
    }

    /** @return array{string, string, array<string, mixed>, array<string, mixed>} page, door, what is typed, what is typed otherwise */
    private function form(string $door): array
    {
        return match ($door) {
            'invoice' => [
                '/TEST/receivables/invoice',
                '/TEST/receivables/invoice',
                [
                    'kind' => 'invoice',
                    'party' => 'C-1',
                    'document_date' => '.',
                    'lines' => [['account' => '4000', 'amount' => '10']],
                    'action' => 'post',
                ],
                ['lines' => [['account' => '4000', 'amount' => '11']]],
            ],
            'receipt' => $this->sentFrom('receivables', 'receipt', 'C-1'),
            'payment' => $this->sentFrom('payables', 'payment', 'V-1'),
            'prepayment' => $this->sentFrom('receivables', 'receipt', 'C-1', ['rest' => 'prepayment'], false),
            'settle' => $this->settle(),
            'delivery' => [
                '/TEST/deliveries/new',
                '/TEST/deliveries/new',
                [
                    'party' => 'V-1',
                    'delivered_on' => '.',
                    'note_number' => 'N-1',
                    'lines' => [['account' => '1400', 'quantity' => '2', 'price' => '5']],
                ],
                ['lines' => [['account' => '1400', 'quantity' => '3', 'price' => '5']]],
            ],
            default => $this->proposal(),
        };
    }

    /**
     * @param array<string, string> $more
     *
     * @return array{string, string, array<string, mixed>, array<string, mixed>}
     */
    private function sentFrom(string $side, string $mode, string $party, array $more = [], bool $placed = true): array
    {
        $item = $this->itemOf($this->invoice(Side::from($side), '100.00', ['terms' => 'N30']));
        $path = "/TEST/$side/$mode";

        // a part only: posted once more it would find enough that is still open
        return [
            $path,
            $path,
            [
                'party' => $party,
                'date' => '.',
                'bank' => '1000',
                'amount' => '40',
                'placed' => $placed ? [$item => '40'] : [],
                'more_than_there' => '1',
                ...$more,
            ],
            ['amount' => '41', 'placed' => $placed ? [$item => '41'] : []],
        ];
    }

    /** @return array{string, string, array<string, mixed>, array<string, mixed>} */
    private function settle(): array
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '100.00', ['terms' => 'N30']));
        $this->money(Side::Receivables, 9000, [], [], self::DAY, DocumentKind::Receipt);
        $credit = (int) $this->db()->fetchOne('SELECT MAX(id) FROM open_item');

        return [
            '/TEST/receivables/settle',
            '/TEST/receivables/settle',
            ['party' => 'C-1', 'date' => '.', 'placed' => [$item => '40', $credit => '-40']],
            ['placed' => [$item => '41', $credit => '-41']],
        ];
    }

    /** @return array{string, string, array<string, mixed>, array<string, mixed>} */
    private function proposal(): array
    {
        $this->itemOf($this->invoice(Side::Payables, '100.00', ['document_date' => '2026-04-01', 'terms' => 'N30']));

        return [
            '/TEST/payables/proposal',
            '/TEST/payables/proposal',
            ['pay_date' => '.', 'due_through' => '.', 'bank' => '1000', 'method' => 'check', 'more_than_there' => '1'],
            ['method' => 'transfer'],
        ];
    }
}
