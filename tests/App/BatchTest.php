<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Invoices\BatchJournal;
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
        // the journal as it would be is the one that is posted
        $planned = self::get(BatchJournal::class)->of($this->clerk, Side::Payables, $id);
        self::assertSame(
            [['1300', 800, 0], ['2100', 0, 20800], ['5000', 20000, 0]],
            array_map(static fn (array $a): array => [$a['account'], $a['debit'], $a['credit']], $planned['accounts']),
        );
        self::assertSame(['A-1', 'A-2'], array_column($planned['entries'], 'label'));
        self::assertSame([], $planned['refused']);
        // the same rows again change the same drafts
        $row = [
            ...self::row('A-2', '100'),
            'draft' => (string) $kept[9]['draft'],
            'version' => (string) $kept[9]['version'],
        ];
        self::get(KeepRows::class)->keep($this->clerk, Side::Payables, $id, [$row]);
        self::assertSame(2, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM document WHERE batch_id = ?', [$id]));
        self::assertSame(
            ['posted' => 2, 'left' => 0, 'why' => []],
            self::get(PostBatch::class)->post($this->clerk, Side::Payables, $id),
        );
        self::assertSame(
            [-20800, 20000, 800],
            [$this->balance('2100'), $this->balance('5000'), $this->balance('1300')],
        );
        $posted = $this->db()->fetchAllNumeric(
            'SELECT a.number, l.base, l.text FROM journal_line l JOIN account a ON a.id = l.account_id ORDER BY l.entry_id, l.position',
        );
        self::assertSame(
            array_map(
                static fn (array $l): array => [$l['account'], $l['base'], $l['text']],
                array_merge(...array_column($planned['entries'], 'lines')),
            ),
            array_map(static fn (array $l): array => [(string) $l[0], (int) $l[1], (string) $l[2]], $posted),
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

        $planned = self::get(BatchJournal::class)->of($this->clerk, Side::Payables, $id);
        self::assertSame(
            [['A-1'], ['A-2', 'A-9']],
            [array_column($planned['entries'], 'label'), array_column($planned['refused'], 'label')],
        );

        $good = self::get(PostBatch::class)->post($this->clerk, Side::Payables, $id, true);
        self::assertSame([1, 2], [$good['posted'], $good['left']]);
        self::assertStringStartsWith('A-2: There is no account', $good['why'][0]);
        self::assertStringStartsWith('A-9: This vendor’s number A-9 is already entered', $good['why'][1]);
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
        self::assertSame('F-1', $page->filter('[data-col=number]')->attr('value'));
        self::assertCount(2, $page->filter('tr[data-grid-row]'), 'two lines fit into a row; and an empty one');
        self::assertSame(
            '6',
            $page->filter('[data-col=amount_2]')->attr('value'),
            'what a row holds is shown, chosen or not',
        );
        self::assertSame(
            ['posted' => 1, 'left' => 0, 'why' => []],
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
            ['posted' => 0, 'left' => 0, 'why' => []],
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

    /** What looks like one entered before is said while it is typed, and explained in its row. */
    public function testALookAlikeIsSaidAndExplainedInItsRow(): void
    {
        $this->invoice(Side::Payables, '33.00', ['number' => 'A-9', 'document_date' => '2026-06-08']);
        $id = $this->batch();
        $rows = self::get(KeepRows::class);
        $kept = $rows->keep($this->clerk, Side::Payables, $id, [self::row('A-9', '70'), self::row('B-1', '33')]);
        self::assertStringContainsString('already entered', $kept[0]['problems']['number']);
        self::assertStringContainsString('same amount', $kept[1]['problems']['look_alike_reason']);
        // a look at the page later says the same, and keeps nothing
        $again = $rows->keep(
            $this->clerk,
            Side::Payables,
            $id,
            [
                [
                    ...self::row('B-1', '33'),
                    'draft' => (string) $kept[1]['draft'],
                    'version' => (string) $kept[1]['version'],
                ],
            ],
            true,
        );
        self::assertSame(['look_alike_reason'], array_keys($again[0]['problems']));
        $explained = $rows->keep($this->clerk, Side::Payables, $id, [
            [
                ...self::row('B-1', '33'),
                'draft' => (string) $kept[1]['draft'],
                'version' => (string) $kept[1]['version'],
                'look_alike_reason' => 'a second load',
            ],
        ]);
        self::assertSame([], $explained[0]['problems']);
        $page = $this->browser->request('GET', '/TEST/payables/batches/'.$id);
        self::assertSame('a second load', $page->filter('[data-col=look_alike_reason]')->eq(1)->attr('value'));
        $this->browser->submit($page->filter('form[data-grid-post] [value=good]')->form());
        $said = $this->browser->followRedirect()->filter('.said-done')->text();
        self::assertStringContainsString('Posted 1 document; 1 stays in the batch. A-9: This vendor’s number', $said);
        self::assertSame(
            'a second load',
            $this->db()->fetchOne("SELECT look_alike_reason FROM document WHERE their_number = 'B-1'"),
        );
    }

    /** Of two rows that are alike the later one is asked about, not both. */
    public function testOfTwoAlikeRowsTheLaterIsAsked(): void
    {
        $id = $this->batch();
        $kept = self::get(KeepRows::class)->keep($this->clerk, Side::Payables, $id, [
            self::row('A-1', '20'),
            self::row('A-2', '20'),
        ]);
        self::assertSame(
            [[], ['look_alike_reason']],
            [array_keys($kept[0]['problems']), array_keys($kept[1]['problems'])],
        );
        $fields = self::refusedFields(fn () => self::get(PostBatch::class)->post($this->clerk, Side::Payables, $id));
        self::assertSame(['draft.'.$kept[1]['draft'].'.look_alike_reason'], $fields);
    }

    /** Kind, terms, currency and a second line are cells; a date that is not typed is the batch's; a pasted name is found. */
    public function testARowHoldsMoreThanOneLine(): void
    {
        $id = $this->batch();
        $name = (string) $this->db()->fetchOne("SELECT name FROM party WHERE code = 'V-1'");
        $row = [
            ...self::row('C-1', '30', '5000', 'P8'),
            'party' => mb_strtoupper($name),
            'document_date' => '',
            'kind' => 'c',
            'account_2' => '5200',
            'amount_2' => '12',
        ];
        $kept = self::get(KeepRows::class)->keep($this->clerk, Side::Payables, $id, [$row])[0];
        self::assertSame([[], '44.40'], [$kept['problems'], $kept['total']]);
        self::assertSame(
            ['V-1', '10 Jun 2026', '12.00', 'credit note'],
            array_map(static fn (string $c): string => $kept['understood'][$c], [
                'party',
                'document_date',
                'amount_2',
                'kind',
            ]),
        );
        $page = $this->browser->request('GET', '/TEST/payables/batches/'.$id);
        self::assertSame('credit_note', $page->filter('[data-col=kind]')->attr('value'));
        self::assertSame('5200', $page->filter('[data-col=account_2]')->attr('value'));
        $wrong = self::get(KeepRows::class)->keep($this->clerk, Side::Payables, $id, [
            [
                ...self::row('C-2', '30'),
                'kind' => 'zebra',
                'terms' => 'NONE',
                'currency' => 'XXX',
                'account_2' => '9',
                'amount_2' => '1',
            ],
        ])[0];
        self::assertSame(['kind', 'terms', 'currency', 'account_2'], array_keys($wrong['problems']));
        self::get(PostBatch::class)->post($this->clerk, Side::Payables, $id, true);
        self::assertSame(
            ['credit_note', 4440],
            $this->db()->fetchNumeric("SELECT kind, total FROM document WHERE their_number = 'C-1'"),
        );
    }

    /** A day far from the books' day asks in its row, as it does in the form. */
    public function testAFarDayAsksInItsRow(): void
    {
        $id = $this->batch();
        $rows = self::get(KeepRows::class);
        $row = [...self::row('F-1', '30'), 'document_date' => '2024-06-08'];
        $kept = $rows->keep($this->clerk, Side::Payables, $id, [$row])[0];
        self::assertSame([['document_date'], ['day_meant']], [array_keys($kept['problems']), $kept['asks']]);
        self::assertSame(0, self::get(PostBatch::class)->post($this->clerk, Side::Payables, $id, true)['posted']);
        $kept = $rows->keep($this->clerk, Side::Payables, $id, [
            [...$row, 'day_meant' => '1', 'draft' => (string) $kept['draft'], 'version' => (string) $kept['version']],
        ])[0];
        self::assertSame([], $kept['problems']);
        self::assertSame(1, self::get(PostBatch::class)->post($this->clerk, Side::Payables, $id, true)['posted']);
    }

    /** Each person chooses the columns; what is in a row stands there all the same. */
    public function testColumnsAreChosen(): void
    {
        $id = $this->batch();
        $page = $this->browser->request('GET', '/TEST/payables/batches/'.$id);
        self::assertCount(0, $page->filter('[data-col=terms]'));
        $form = $page->filter('details.columns form')->form();
        $values = $form->getPhpValues();
        $this->browser->request('POST', $form->getUri(), [...$values, 'columns' => ['terms', 'kind']]);
        $page = $this->browser->followRedirect();
        self::assertStringContainsString('/batches/'.$id, $this->browser->getRequest()->getUri());
        self::assertCount(1, $page->filter('[data-col=terms]'));
        self::assertCount(0, $page->filter('[data-col=due_date]'));
        self::assertCount(1, $page->filter('[data-col=amount]'), 'without it a row is no document');
        foreach (['//evil.example/', 'https://evil.example', '/OTHER/x', '/TEST//evil', ''] as $back) {
            $this->browser->request('POST', $form->getUri(), [...$values, 'back' => $back]);
            self::assertSame('/TEST', $this->browser->getResponse()->headers->get('Location'), $back);
        }
    }
}
