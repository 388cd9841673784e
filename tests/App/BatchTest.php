<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Invoices\KeepRows;
use Nelbix\App\Invoices\PostBatch;
use Nelbix\App\Invoices\SaveBatch;
use Nelbix\Core\Ledger\Side;

/** Batches post whole or not at all; the grid keeps its rows as drafts. */
final class BatchTest extends ScreenCase
{
    /** @param array<string, string> $more */
    private function batch(array $more = []): int
    {
        return self::get(SaveBatch::class)->save($this->clerk, Side::Payables, [
            'name' => 'pile',
            'posting_date' => '2026-06-10',
            ...$more,
        ]);
    }

    /** @return array<string, string> */
    private static function row(string $number, string $amount, string $account = '5000', string $tax = ''): array
    {
        return [
            'party' => 'V-1',
            'number' => $number,
            'document_date' => '6/8',
            'account' => $account,
            'amount' => $amount,
            'tax_code' => $tax,
            'cost_center' => '',
            'text' => 'oak',
            'due_date' => '',
            'draft' => '',
            'version' => '',
        ];
    }

    public function testRowsAreKeptUnderstoodAndPostedWhole(): void
    {
        $id = $this->batch(['control_count' => '2', 'control_total' => '208.00']);
        $kept = self::get(KeepRows::class)->keep($this->clerk, Side::Payables, $id, [
            7 => self::row('A-1', '50*2', '5000', 'P8'),
            9 => self::row('A-2', '100'),
        ]);
        self::assertSame(
            ['108.00', '8 Jun 2026', '100.00'],
            [$kept[7]['total'], $kept[7]['understood']['document_date'], $kept[7]['understood']['amount']],
        );
        self::assertSame([[], []], [$kept[7]['problems'], $kept[9]['problems']]);
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM journal_entry'));
        // the same rows again change the same drafts
        $row = [
            ...self::row('A-2', '100'),
            'draft' => (string) $kept[9]['draft'],
            'version' => (string) $kept[9]['version'],
        ];
        self::get(KeepRows::class)->keep($this->clerk, Side::Payables, $id, [$row]);
        self::assertSame(2, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM document WHERE batch_id = ?', [$id]));
        self::assertSame(
            ['posted' => 2, 'left' => 0],
            self::get(PostBatch::class)->post($this->clerk, Side::Payables, $id),
        );
        self::assertSame(
            [-20800, 20000, 800],
            [$this->balance('2100'), $this->balance('5000'), $this->balance('1300')],
        );
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(PostBatch::class)->post($this->clerk, Side::Payables, $id)),
            'not twice',
        );
        self::assertSame(
            [''],
            self::refusedFields(
                fn () => self::get(KeepRows::class)->keep($this->clerk, Side::Payables, $id, [self::row('A-3', '1')]),
            ),
        );
    }

    public function testOneWrongRowKeepsAllOut(): void
    {
        $this->invoice(Side::Payables, '33.00', ['number' => 'A-9']);
        $id = $this->batch(['control_count' => '5', 'control_total' => '1']);
        $kept = self::get(KeepRows::class)->keep($this->clerk, Side::Payables, $id, [
            self::row('A-1', '100'),
            self::row('A-2', '12,x', '9999'),
            self::row('A-9', '70'),
        ]);
        self::assertSame(['account', 'amount'], array_keys($kept[1]['problems']));
        $fields = self::refusedFields(fn () => self::get(PostBatch::class)->post($this->clerk, Side::Payables, $id));
        self::assertContains('control_count', $fields);
        self::assertContains('control_total', $fields);
        self::assertContains('draft.'.$kept[1]['draft'].'.lines.0.account', $fields);
        self::assertContains('draft.'.$kept[2]['draft'].'.number', $fields, 'a number that is entered already');
        self::assertSame(
            [1, 3],
            [
                (int) $this->db()->fetchOne('SELECT COUNT(*) FROM journal_entry'),
                (int) $this->db()->fetchOne("SELECT COUNT(*) FROM document WHERE state = 'draft'"),
            ],
        );

        self::assertSame(
            ['posted' => 1, 'left' => 2],
            self::get(PostBatch::class)->post($this->clerk, Side::Payables, $id, true),
        );
        self::assertSame(
            [2, 2],
            [
                (int) $this->db()->fetchOne('SELECT COUNT(*) FROM journal_entry'),
                (int) $this->db()->fetchOne("SELECT COUNT(*) FROM document WHERE state = 'draft'"),
            ],
        );
        $page = $this->browser->request('GET', '/TEST/payables/batches/'.$id);
        self::assertCount(3, $page->filter('tr[data-grid-row]'), 'two to be mended and an empty one');
        self::assertStringContainsString('VI-26-00002', $page->filter('table.cells')->text());
    }

    public function testTheGridOverTheWire(): void
    {
        $id = $this->batch(['control_count' => '40', 'control_total' => '820.00']);
        $token = $this->browser
            ->request('GET', '/TEST/payables/batches/'.$id)
            ->filter('[data-grid]')
            ->attr('data-token');
        $send = function (string $body, string $token) use ($id): array {
            $this->browser->request(
                'POST',
                '/TEST/payables/batches/'.$id.'/rows',
                [],
                [],
                ['CONTENT_TYPE' => 'application/json', 'HTTP_X_TOKEN' => $token],
                $body,
            );
            $answer = json_decode((string) $this->browser->getResponse()->getContent(), true);

            return \is_array($answer) ? $answer : [];
        };
        $rows = array_map(static fn (int $n): array => self::row('B-'.$n, (string) $n), range(1, 40));
        $answer = $send(json_encode(['rows' => $rows], \JSON_THROW_ON_ERROR), (string) $token);
        self::assertCount(40, $answer['rows']);
        self::assertStringContainsString('40 of 40', $answer['sum']);
        self::assertStringContainsString('agrees with the tape', $answer['sum']);
        // an emptied row goes away; rows of others, nonsense and a missing token change nothing
        $send(
            json_encode(
                ['rows' => [['draft' => $answer['rows'][0]['draft'], 'version' => $answer['rows'][0]['version']]]],
                \JSON_THROW_ON_ERROR,
            ),
            (string) $token,
        );
        self::assertSame(39, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM document WHERE batch_id = ?', [$id]));
        self::assertStringContainsString(
            'Somebody else saved',
            (string) ($send(
                json_encode(
                    ['rows' => [[...$rows[1], 'draft' => $answer['rows'][1]['draft'], 'version' => 99]]],
                    \JSON_THROW_ON_ERROR,
                ),
                (string) $token,
            )['refused'] ?? ''),
        );
        foreach (['', 'x', '[]', '{"rows": 5}', '{"rows": {"0": "x"}}', '{"rows": {"0": {"party": ["x"]}}}'] as $body) {
            $send($body, (string) $token);
            self::assertLessThan(500, $this->browser->getResponse()->getStatusCode(), $body);
        }
        $send('{"rows": {}}', 'wrong');
        self::assertSame(403, $this->browser->getResponse()->getStatusCode());
        self::assertSame(39, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM document WHERE batch_id = ?', [$id]));
        $this->browser->request('GET', '/TEST/receivables/batches/'.$id);
        self::assertSame(404, $this->browser->getResponse()->getStatusCode(), 'a batch belongs to its side');
    }

    public function testAnInvoiceIsKeptInABatchFromItsForm(): void
    {
        $id = $this->batch();
        $form = $this->browser
            ->request('GET', '/TEST/payables/invoice?batch='.$id)
            ->filter('#invoice')
            ->form();
        self::assertSame('10 Jun 2026', self::value($form, 'posting_date'));
        $values = [
            ...$form->getPhpValues(),
            'party' => 'V-1',
            'number' => 'F-1',
            'document_date' => '6/9',
            'lines' => [['account' => '5000', 'amount' => '5'], ['account' => '5200', 'amount' => '6']],
            '_action' => 'draft_next',
        ];
        $this->browser->request('POST', '/TEST/payables/invoice', $values);
        self::assertStringContainsString(
            'batch='.$id,
            (string) $this->browser->getResponse()->headers->get('Location'),
        );
        $page = $this->browser->request('GET', '/TEST/payables/batches/'.$id);
        self::assertStringContainsString('F-1', $page->filter('table.cells')->text());
        self::assertCount(1, $page->filter('tr[data-grid-row]'), 'two lines are no row of the grid');
        self::assertSame(
            ['posted' => 1, 'left' => 0],
            self::get(PostBatch::class)->post($this->clerk, Side::Payables, $id),
        );
        self::assertSame(
            ['name', 'posting_date', 'control_count', 'control_total'],
            self::refusedFields(
                fn () => $this->batch([
                    'name' => '',
                    'posting_date' => 'x',
                    'control_count' => '-1',
                    'control_total' => 'x',
                ]),
            ),
        );
    }

    /** Two clerks on one batch: what one has posted the other cannot change, and a draft of another batch is out of reach. */
    public function testRowsOfOthersAreOutOfReach(): void
    {
        $mine = $this->batch();
        $kept = self::get(KeepRows::class)->keep($this->clerk, Side::Payables, $mine, [self::row('M-1', '10')]);
        $row = [
            ...self::row('M-1', '11'),
            'draft' => (string) $kept[0]['draft'],
            'version' => (string) $kept[0]['version'],
        ];
        self::get(PostBatch::class)->post($this->clerk, Side::Payables, $mine);
        $other = $this->batch(['name' => 'other']);
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(KeepRows::class)->keep($this->clerk, Side::Payables, $other, [$row])),
            'a posted document is no row',
        );
        self::assertSame(1000, (int) $this->db()->fetchOne("SELECT total FROM document WHERE their_number = 'M-1'"));
        self::assertSame(
            [''],
            self::refusedFields(
                fn () => self::get(KeepRows::class)->keep($this->clerk, Side::Receivables, $other, [
                    self::row('M-2', '1'),
                ]),
            ),
        );
        self::assertSame(
            [''],
            self::refusedFields(
                fn () => self::get(KeepRows::class)->keep(
                    $this->clerk,
                    Side::Payables,
                    $other,
                    array_fill(0, 501, self::row('M-3', '1')),
                ),
            ),
        );
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(PostBatch::class)->post($this->clerk, Side::Payables, $other)),
            'an empty batch has nothing to post',
        );
        self::assertSame(
            ['posted' => 0, 'left' => 0],
            self::get(PostBatch::class)->post($this->clerk, Side::Payables, $other, true),
        );
        self::assertNull($this->db()->fetchOne('SELECT posted_at FROM batch WHERE id = ?', [$other]), 'it stays open');
    }

    /** A look at the rows keeps nothing and says the same. */
    public function testCheckingKeepsNothing(): void
    {
        $id = $this->batch();
        $checked = self::get(KeepRows::class)->keep(
            $this->clerk,
            Side::Payables,
            $id,
            [self::row('A-1', 'x'), self::row('A-2', '5')],
            true,
        );
        self::assertSame([['amount'], []], [array_keys($checked[0]['problems']), $checked[1]['problems']]);
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM document'));
    }
}
