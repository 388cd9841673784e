<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\ChangePosted;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\PutRight;
use Nelbix\App\Invoices\WriteNote;
use Nelbix\App\Platform\Apart;
use Nelbix\App\Platform\FileStore;
use Nelbix\App\Work\DrawPages;
use Nelbix\App\Work\ForgetOld;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Settlement\AdjustmentKind;
use PHPUnit\Framework\Attributes\DataProvider;
use Symfony\Component\DomCrawler\Crawler;

/** What may be done with documents after and beside entering them: put right, credits against, notes, papers, look-alikes. */
final class DocumentsInTest extends ScreenCase
{
    /** @return array<string, mixed> the fields of the form that puts a document right */
    private function putRightForm(int $id): array
    {
        $form = $this->browser
            ->request('GET', '/TEST/payables/document/'.$id.'/put-right')
            ->filter('#invoice')
            ->form();
        $values = $form->getPhpValues();
        unset($values['_token']);

        return $values;
    }

    public function testPutRightReversesAndPostsAnewInOneAction(): void
    {
        $id = $this->invoice(Side::Payables, '100.00', [
            'number' => 'X-1',
            'lines' => [
                ['account' => '5000', 'amount' => '100.00', 'tax_code' => 'P8', 'text' => 'oak', 'cost_center' => ''],
            ],
        ]);
        $values = $this->putRightForm($id);
        self::assertSame(
            ['X-1', '10 Jun 2026', '5000', '100.00', 'P8', 'oak'],
            [
                $values['number'],
                $values['document_date'],
                $values['lines'][0]['account'],
                $values['lines'][0]['amount'],
                $values['lines'][0]['tax_code'],
                $values['lines'][0]['text'],
            ],
        );
        $values['lines'][0]['account'] = '5200';
        $page = $this->post('/TEST/payables/document/'.$id.'/put-right', '/TEST/payables/invoice', [
            ...$values,
            'reason' => 'freight, not oak',
            '_action' => 'post',
        ]);
        self::assertSame('VI-26-00003', $page->filter('h1')->text());
        self::assertStringContainsString('puts right VI-26-00001', $page->filter('.tools')->text());
        self::assertSame(
            [0, 10000, 800, -10800],
            [$this->balance('5000'), $this->balance('5200'), $this->balance('1300'), $this->balance('2100')],
        );
        self::assertSame(
            [['reversed', 'freight, not oak'], ['put right', 'as VI-26-00003']],
            $this->db()->fetchAllNumeric(
                <<<SQL
                SELECT action, detail
                FROM history
                WHERE subject = 'document' AND subject_id = ? AND action IN ('reversed', 'put right')
                ORDER BY id
                SQL
                ,
                [$id],
            ),
        );
        self::assertSame(
            $id,
            (int) $this->db()->fetchOne("SELECT replaces_id FROM document WHERE number = 'VI-26-00003'"),
        );
        // the same page sent again changes nothing
        $this->browser->request('POST', '/TEST/payables/invoice', [
            '_token' => $page->filter('input[name=_token]')->last()->attr('value'),
            ...$values,
            '_action' => 'post',
        ]);
        self::assertSame(3, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM document'));
    }

    public function testPutRightIsRefusedWhileSettledAndLeavesEverythingWhenTheNewFormIsWrong(): void
    {
        $id = $this->invoice(Side::Payables, '100.00', ['number' => 'X-2']);
        $values = $this->putRightForm($id);
        $wrong = $values;
        $wrong['lines'][0]['account'] = '9999';
        $page = $this->post('/TEST/payables/document/'.$id.'/put-right', '/TEST/payables/invoice', [
            ...$wrong,
            '_action' => 'post',
        ]);
        self::assertStringContainsString('There is no account “9999”', $page->filter('.said-refused')->text());
        self::assertStringContainsString(
            'Put right VI-26-00001',
            $page->filter('h1')->text(),
            'what was typed is still there',
        );
        self::assertSame('posted', $this->db()->fetchOne('SELECT state FROM document WHERE id = ?', [$id]));
        self::assertSame(1, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM document'));

        $payment = $this->money(
            Side::Payables,
            4000,
            [new PlacementRequest($this->itemOf($id), 4000)],
            [],
            self::DAY,
            \Nelbix\Core\Ledger\DocumentKind::Payment,
        );
        $number = (string) $this->db()->fetchOne('SELECT number FROM document WHERE id = ?', [$payment]);
        $this->browser->request('GET', '/TEST/payables/document/'.$id.'/put-right');
        self::assertStringContainsString(
            'is settled with '.$number.'; undo that settlement first',
            $this->browser->followRedirect()->filter('.said-refused')->text(),
            'refused at opening',
        );
        $page = $this->post('/TEST/payables/invoice', '/TEST/payables/invoice', [
            ...$values,
            '_key' => 'other',
            '_action' => 'post',
        ]);
        self::assertStringContainsString(
            'is settled with '.$number.'; undo that settlement first',
            $page->filter('.said-refused')->text(),
            'and by the page that was open before',
        );
        self::assertSame(
            ['kind'],
            self::refusedFields(
                fn () => self::get(PutRight::class)->putRight(
                    $this->clerk,
                    $id,
                    self::get(InvoiceReader::class)->read($this->clerk, Side::Payables, [
                        ...$values,
                        'kind' => 'credit_note',
                    ]),
                    '',
                ),
            ),
        );
    }

    /** rules.md: a credit note that names an invoice lowers it: 1,000.00 less 200.00, 2 %: pay 784.00. */
    public function testACreditNoteAgainstAnInvoiceLowersIt(): void
    {
        $invoice = $this->invoice(Side::Receivables, '1000.00');
        $item = $this->itemOf($invoice);
        $number = (string) $this->db()->fetchOne('SELECT number FROM document WHERE id = ?', [$invoice]);
        $credit = $this->invoice(Side::Receivables, '200.00', ['kind' => 'credit_note', 'against' => $number]);
        self::assertSame([80000, 0], [$this->open($item), $this->open($this->itemOf($credit))]);
        $this->money(
            Side::Receivables,
            78400,
            [new PlacementRequest($item, 80000)],
            [new AdjustmentRequest($item, AdjustmentKind::Discount, -1600)],
        );
        self::assertSame(0, $this->open($item));
        self::assertSame(1600, $this->balance('4900'));
        $page = $this->browser->request('GET', '/TEST/receivables/document/'.$invoice);
        self::assertStringContainsString('credited by CC-26-00001', $page->filter('.tools')->text());
        self::assertSame(
            ['against'],
            self::refusedFields(
                fn () => $this->invoice(Side::Receivables, '1.00', ['kind' => 'credit_note', 'against' => 'nope']),
            ),
        );
        self::assertSame(
            ['against'],
            self::refusedFields(fn () => $this->invoice(Side::Receivables, '1.00', ['against' => $number])),
        );
    }

    /** rules.md: 200.00 on instalments of 300.00/300.00/400.01: 60.00, 60.00, 80.00. More than is open stays a credit. */
    public function testACreditIsSharedOverInstalments(): void
    {
        $invoice = $this->invoice(Side::Receivables, '1000.01', ['terms' => 'THIRDS']);
        $number = (string) $this->db()->fetchOne('SELECT number FROM document WHERE id = ?', [$invoice]);
        $open = fn (): array => array_map(
            'intval',
            $this->db()->fetchFirstColumn('SELECT open FROM open_item WHERE document_id = ? ORDER BY part', [$invoice]),
        );
        self::assertSame([30000, 30000, 40001], $open());
        $this->invoice(Side::Receivables, '200.00', ['kind' => 'credit_note', 'against' => $number]);
        self::assertSame([24000, 24000, 32001], $open());
        $more = $this->invoice(Side::Receivables, '900.00', ['kind' => 'credit_note', 'against' => $number]);
        self::assertSame([0, 0, 0, -9999], [...$open(), $this->open($this->itemOf($more))]);
    }

    public function testALookAlikeIsDecidedWithAReasonThatIsKept(): void
    {
        $this->invoice(Side::Payables, '912.40', ['number' => 'BR-2240']);
        $form = [
            'party' => 'V-1',
            'number' => 'BR 02240',
            'document_date' => '6/12',
            'lines' => [['account' => '5000', 'amount' => '912.40']],
            '_action' => 'post',
        ];
        $page = $this->post('/TEST/payables/invoice', '/TEST/payables/invoice', $form);
        self::assertStringContainsString(
            'It looks like VI-26-00001 (number alike). Say why it is another one',
            $page->filter('.said-refused')->text(),
        );
        $page = $this->post('/TEST/payables/invoice', '/TEST/payables/invoice', [
            ...$form,
            'look_alike_reason' => 'second delivery of the same drums',
        ]);
        self::assertSame('VI-26-00002', $page->filter('h1')->text());
        self::assertStringContainsString('second delivery of the same drums', $page->filter('main')->text());
        // another amount on another day under another number is none
        $page = $this->post('/TEST/payables/invoice', '/TEST/payables/invoice', [
            ...$form,
            'number' => 'BR-9',
            'lines' => [['account' => '5000', 'amount' => '12.00']],
        ]);
        self::assertSame('VI-26-00003', $page->filter('h1')->text());
    }

    public function testTheTaxOfThePaperRulesWithinTheTolerance(): void
    {
        $form = [
            'party' => 'V-1',
            'number' => 'T-1',
            'document_date' => '6/12',
            'lines' => [['account' => '5000', 'amount' => '100.00', 'tax_code' => 'P8']],
            '_action' => 'post',
        ];
        $live = $this->post('/TEST/payables/invoice', '/TEST/payables/invoice/live', $form);
        self::assertSame('8.00', $live->filter('input[name="tax[P8]"]')->attr('placeholder'));
        $refused = $this->post('/TEST/payables/invoice', '/TEST/payables/invoice', [
            ...$form,
            'tax' => ['P8' => '8.06'],
        ]);
        self::assertStringContainsString(
            'further from the computed tax than the tolerance allows',
            $refused->filter('.said-refused')->text(),
        );
        $this->post('/TEST/payables/invoice', '/TEST/payables/invoice', [...$form, 'tax' => ['P8' => '8.05']]);
        self::assertSame([-10805, 805], [$this->balance('2100'), $this->balance('1300')]);
    }

    public function testDueDateAndReferenceChangeAndTheHistorySaysFromWhatToWhat(): void
    {
        $id = $this->invoice(Side::Payables, '100.00', ['terms' => 'N30']);
        $page = $this->post('/TEST/payables/document/'.$id, '/TEST/payables/document/'.$id.'/change', [
            '_action' => 'amend',
            'due_date' => '7/20',
            'reference' => 'agreed by phone',
        ]);
        self::assertStringContainsString('the books are not touched', $page->filter('.said-done')->text());
        self::assertSame(
            '2026-07-20',
            $this->db()->fetchOne('SELECT due_date FROM open_item WHERE document_id = ?', [$id]),
        );
        self::assertStringContainsString(
            'due date from 10 Jul 2026 to 20 Jul 2026; reference now agreed by phone',
            $page->filter('main')->text(),
        );
        $change = self::get(ChangePosted::class);
        self::assertSame(
            ['due_date'],
            self::refusedFields(fn () => $change->amend($this->clerk, $id, Day::of('2026-06-01'), '')),
        );
        $parts = $this->invoice(Side::Payables, '100.00', ['terms' => 'THIRDS', 'number' => 'P-2']);
        self::assertSame(
            ['due_date'],
            self::refusedFields(fn () => $change->amend($this->clerk, $parts, Day::of('2026-09-01'), '')),
        );
    }

    /** A note on a party stands there with those on its documents; a task leads back to the party. */
    public function testNotesOfAParty(): void
    {
        $document = $this->invoice(Side::Payables, '10.00', ['number' => 'N-1']);
        self::get(WriteNote::class)->write($this->clerk, Side::Payables, $document, 'a bolt is missing');
        $party = (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'V-1'");
        $path = '/TEST/payables/party/'.$party;
        self::assertStringContainsString(
            'The note is empty',
            $this->post($path, $path.'/note', ['text' => ' '])
                ->filter('.said-refused')
                ->text(),
        );
        $this->post($path, $path.'/note', ['text' => 'pays after a call', 'for' => '']);
        $me = (string) $this->db()->fetchOne('SELECT username FROM app_user WHERE id = ?', [$this->clerk->userId]);
        $page = $this->post($path, $path.'/note', ['text' => 'call them', 'for' => $me, 'due_on' => '.']);
        self::assertStringContainsString('VI-26-00001: a bolt is missing', $page->filter('#notes + table')->text());
        self::assertStringContainsString('pays after a call', $page->filter('#notes + table')->text());
        $tasks = $this->browser->request('GET', '/TEST/tasks')->filter('table.list');
        self::assertStringContainsString('call them', $tasks->text());
        self::assertSame($path, $tasks->filter('a')->last()->attr('href'));
        $other = $this->post($path, '/TEST/receivables/party/'.$party.'/note', ['text' => 'x']);
        self::assertStringNotContainsString('kept with', $other->text());
        self::assertSame(3, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM note'));
    }

    public function testNotesAndTasks(): void
    {
        $id = $this->invoice(Side::Payables, '100.00');
        $page = '/TEST/payables/document/'.$id;
        $this->post($page, $page.'/note', [
            'text' => 'ask for the proof of delivery',
            'for' => 'payables',
            'due_on' => '6/20',
        ]);
        $this->as('payables');
        self::assertStringContainsString(
            'task from colleagues',
            $this->browser->request('GET', '/TEST')->filter('main')->text(),
        );
        $tasks = $this->browser->request('GET', '/TEST/tasks');
        self::assertStringContainsString('ask for the proof of delivery', $tasks->filter('table.list')->text());
        $task = (int) $this->db()->fetchOne('SELECT id FROM note');
        $this->as('approver');
        self::assertStringContainsString(
            'Only the one it is for',
            $this->post('/TEST', '/TEST/task/'.$task.'/done', [])
                ->filter('.said-refused')
                ->text(),
        );
        $this->as('payables');
        self::assertStringContainsString(
            'The task is done',
            $this->post('/TEST/tasks', '/TEST/task/'.$task.'/done', [])
                ->filter('.said-done')
                ->text(),
        );
        self::assertStringContainsString(
            'done already',
            $this->post('/TEST/tasks', '/TEST/task/'.$task.'/done', [])
                ->filter('.said-refused')
                ->text(),
        );
        $note = self::get(WriteNote::class);
        self::assertSame(['text'], self::refusedFields(fn () => $note->write($this->clerk, Side::Payables, $id, ' ')));
        self::assertSame(
            ['for'],
            self::refusedFields(fn () => $note->write($this->clerk, Side::Payables, $id, 'x', 'stranger')),
        );
        self::assertSame(
            ['for'],
            self::refusedFields(
                fn () => $note->write($this->clerk, Side::Payables, $id, 'x', '', Day::of('2026-06-20')),
            ),
        );
        self::assertSame([''], self::refusedFields(fn () => $note->write($this->clerk, Side::Receivables, $id, 'x')));
        $this->as('auditor');
        $token = $this->browser->request('GET', '/TEST')->filter('input[name=_token]')->last()->attr('value');
        $this->browser->request('POST', $page.'/note', ['_token' => $token, 'text' => 'x']);
        self::assertSame(403, $this->browser->getResponse()->getStatusCode());
    }

    private static function pdf(): string
    {
        $pdf = new \Dompdf\Dompdf();
        $pdf->loadHtml('<p>Invoice 88291</p><div style="page-break-before:always">page two</div>');
        $pdf->render();

        return (string) $pdf->output();
    }

    public function testAPaperStaysWithItsDocumentAndIsShownAsPictures(): void
    {
        $figure = $this->post(
            '/TEST/payables/invoice',
            '/TEST/payables/paper',
            [],
            ['paper' => self::upload(self::pdf(), '../../<b>evil.pdf')],
        );
        self::assertSame(201, $this->browser->getResponse()->getStatusCode());
        self::assertCount(2, $figure->filter('img'));
        $paper = (string) $figure->filter('figure')->attr('data-paper');
        self::assertStringNotContainsString('/', (string) $this->db()->fetchOne('SELECT name FROM stored_file'));
        $this->browser->request('GET', (string) $figure->filter('img')->eq(1)->attr('src'));
        self::assertSame(202, $this->browser->getResponse()->getStatusCode(), 'it waits for a worker');
        self::assertTrue(self::get(DrawPages::class)->do());
        self::assertFalse(self::get(DrawPages::class)->do(), 'once');
        $this->browser->request('GET', (string) $figure->filter('img')->eq(1)->attr('src'));
        self::assertStringStartsWith("\x89PNG", (string) $this->browser->getResponse()->getContent());
        // a picture that was forgotten is drawn once more when somebody looks
        $this->db()->executeStatement('UPDATE page_image SET drawn_at = ?', [
            date('Y-m-d H:i:s', time() - 401 * 86400),
        ]);
        self::get(ForgetOld::class)->do();
        $this->browser->request('GET', (string) $figure->filter('img')->eq(1)->attr('src'));
        self::assertSame(202, $this->browser->getResponse()->getStatusCode());
        self::assertTrue(self::get(DrawPages::class)->do());
        $this->browser->request('GET', (string) $figure->filter('img')->eq(1)->attr('src'));
        self::assertStringStartsWith("\x89PNG", (string) $this->browser->getResponse()->getContent());
        self::assertSame('nosniff', $this->browser->getResponse()->headers->get('X-Content-Type-Options'));
        $this->browser->request('GET', '/TEST/payables/paper/'.$paper.'/3.png');
        self::assertSame(404, $this->browser->getResponse()->getStatusCode());

        // nobody else sees it before it belongs to a document
        $this->as('payables');
        $this->browser->request('GET', '/TEST/payables/paper/'.$paper.'/1.png');
        self::assertSame(404, $this->browser->getResponse()->getStatusCode());
        // and nobody else can take it for a document of theirs
        $theirs = $this->post('/TEST/payables/invoice', '/TEST/payables/invoice', [
            'party' => 'V-1',
            'number' => 'P-0',
            'document_date' => '6/12',
            'lines' => [['account' => '5000', 'amount' => '77.00']],
            'paper' => [$paper],
            '_action' => 'post',
        ]);
        self::assertCount(0, $theirs->filter('figure.sheet'));
        $this->as('controller');
        $form = [
            'party' => 'V-1',
            'number' => 'P-1',
            'document_date' => '6/12',
            'lines' => [['account' => '5000', 'amount' => '10.00']],
            'paper' => [$paper],
        ];
        $draft = $this->post('/TEST/payables/invoice', '/TEST/payables/invoice', [...$form, '_action' => 'draft']);
        self::assertCount(1, $draft->filter('figure.sheet'));
        $posted = $this->post('/TEST/payables/invoice', '/TEST/payables/invoice', [
            ...$form,
            '_draft' => $draft->filter('input[name=_draft]')->attr('value'),
            '_version' => $draft->filter('input[name=_version]')->attr('value'),
            '_action' => 'post',
        ]);
        self::assertCount(1, $posted->filter('figure.sheet'), 'it stays with the posted document');
        $this->as('payables');
        $this->browser->request('GET', '/TEST/payables/paper/'.$paper.'/original');
        $headers = $this->browser->getResponse()->headers;
        self::assertSame(
            ['application/octet-stream', 'nosniff'],
            [$headers->get('Content-Type'), $headers->get('X-Content-Type-Options')],
        );
        self::assertSame(
            'attachment; filename="b evil.pdf"',
            $headers->get('Content-Disposition'),
            'the name is for show, the ending that of the bytes',
        );
        // the other side and the other company have no part in it
        $this->as('controller');
        foreach (['/TEST/receivables/paper/', '/OTHER/payables/paper/'] as $path) {
            $this->browser->request('GET', $path.$paper.'/1.png');
            self::assertSame(404, $this->browser->getResponse()->getStatusCode());
        }
        // a picture is drawn anew
        $image = imagecreatetruecolor(3000, 100) ?: self::fail();
        ob_start();
        imagejpeg($image);
        $figure = $this->post(
            '/TEST/payables/invoice',
            '/TEST/payables/paper',
            ['document' => (string) $this->db()->fetchOne("SELECT id FROM document WHERE their_number = 'P-1'")],
            ['paper' => self::upload((string) ob_get_clean(), 'scan.jpg')],
        );
        self::get(DrawPages::class)->do();
        $this->browser->request('GET', (string) $figure->filter('img')->attr('src'));
        self::assertSame(
            1400,
            (getimagesizefromstring((string) $this->browser->getResponse()->getContent()) ?: [0])[0],
        );
    }

    /** @return iterable<string, array{string, string}> */
    public static function hostile(): iterable
    {
        yield 'a page with a script' => ['<html><script>alert(1)</script>', 'of no kind that is known'];
        yield 'a picture that carries script' => [
            '<svg xmlns="http://www.w3.org/2000/svg" onload="alert(1)"/>',
            'of no kind that is known',
        ];
        yield 'a program' => ["MZ\x90\x00\x03\x00", 'of no kind that is known'];
        yield 'a program called PDF' => ["\x7FELF\x02\x01", 'of no kind that is known'];
        yield 'a PDF in name only' => ['%PDF-1.4 nothing', 'cannot be read'];
        yield 'a picture in name only' => ["\x89PNG\r\n\x1a\n rubbish", 'cannot be read'];
        yield 'a list' => ['a,b,c', 'can be kept here'];
        yield 'nothing' => ['', 'empty'];
        yield 'a picture that unfolds to gigabytes' => [
            "\x89PNG\r\n\x1a\n".
            pack('N', 13).
            'IHDR'.
            pack('NN', 60000, 60000).
            "\x08\x02\x00\x00\x00".
            pack('N', crc32('IHDR'.pack('NN', 60000, 60000)."\x08\x02\x00\x00\x00")),
            'larger than 25 million',
        ];
    }

    #[DataProvider('hostile')]
    public function testHostileFilesAreRefused(string $bytes, string $said): void
    {
        $this->post(
            '/TEST/payables/invoice',
            '/TEST/payables/paper',
            [],
            ['paper' => self::upload($bytes, 'paper.pdf')],
        );
        self::assertSame(422, $this->browser->getResponse()->getStatusCode());
        self::assertStringContainsString($said, (string) $this->browser->getResponse()->getContent());
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM stored_file'), 'nothing is kept');
    }

    /** A page that would take more memory or time than it may is given up once, and said. */
    public function testAPageThatCannotBeDrawnIsRememberedAndSaid(): void
    {
        $huge = str_replace('595 842', '1 20000', self::onePage());
        $figure = $this->post(
            '/TEST/payables/invoice',
            '/TEST/payables/paper',
            [],
            ['paper' => self::upload($huge, 'huge.pdf')],
        );
        $began = microtime(true);
        self::assertTrue(self::get(DrawPages::class)->do());
        self::assertLessThan(15.0, microtime(true) - $began);
        $this->browser->request('GET', (string) $figure->filter('img')->attr('src'));
        self::assertSame(422, $this->browser->getResponse()->getStatusCode());
        self::assertStringContainsString('cannot be drawn', (string) $this->browser->getResponse()->getContent());
        self::assertFalse(self::get(DrawPages::class)->do(), 'not again');
    }

    /** What runs on a file from outside has no secrets, is not root, and ends when it takes too much. */
    public function testWhatRunsApartMayLittle(): void
    {
        $_ENV['DATABASE_URL'] ??= 'mysql://secret';
        $env = (string) Apart::run(['env'], '');
        self::assertStringNotContainsString('DATABASE_URL', $env);
        self::assertStringNotContainsString('APP_SECRET', $env);
        self::assertNotSame('0', trim((string) Apart::run(['id', '-u'], '')));
        self::assertNull(
            Apart::run(['bash', '-c', 'x=$(head -c 400000000 /dev/zero | tr "\\0" x); echo ${#x}'], ''),
            'memory',
        );
        self::assertNull(Apart::run(['bash', '-c', 'echo x > /tmp/nelbix-apart-'.getmypid()], ''), 'no files');
        self::assertSame('abc', Apart::run(['cat'], 'abc'));
    }

    private static function onePage(): string
    {
        return <<<'PDF'
        %PDF-1.4
        1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj
        2 0 obj<</Type/Pages/Kids[3 0 R]/Count 1>>endobj
        3 0 obj<</Type/Page/Parent 2 0 R/MediaBox[0 0 595 842]>>endobj
        trailer<</Root 1 0 R>>
        PDF;
    }

    /** A file whose bytes are not those that were kept is not handed out. */
    public function testAFileThatWasChangedIsNotReadAsIfNothingHadHappened(): void
    {
        $files = self::get(FileStore::class);
        $id = $files->keep($this->clerk, 'import', null, 'x.csv', "a,b\n1,2\n", ['text/csv']);
        self::assertNotNull($files->read($this->clerk->companyId, 'import', $id));
        $this->db()->executeStatement("UPDATE stored_file SET content = 'a,b' WHERE id = ?", [$id]);
        $this->expectException(\RuntimeException::class);
        $files->read($this->clerk->companyId, 'import', $id);
    }

    public function testTheLastInvoiceIsOfferedAndAnotherLikeItEntered(): void
    {
        $id = $this->invoice(Side::Payables, '100.00', [
            'number' => 'L-1',
            'lines' => [
                ['account' => '5200', 'amount' => '70.00', 'text' => 'freight'],
                ['account' => '5000', 'amount' => '30.00'],
            ],
        ]);
        $live = $this->post('/TEST/payables/invoice', '/TEST/payables/invoice/live', ['party' => 'V-1']);
        self::assertStringContainsString('Last time VI-26-00001', $live->filter('#last')->text());
        $this->browser->request('GET', (string) $live->filter('[data-like]')->attr('data-like'));
        $lines = json_decode((string) $this->browser->getResponse()->getContent(), true);
        self::assertIsArray($lines);
        self::assertSame(['5200', '70.00', 'freight'], [$lines[0]['account'], $lines[0]['amount'], $lines[0]['text']]);
        $copy = $this->browser->request('GET', '/TEST/payables/invoice?like='.$id);
        self::assertSame(
            ['V-1', '', '5200'],
            [
                $copy->filter('#party')->attr('value'),
                $copy->filter('#number')->attr('value'),
                $copy->filter('input[name="lines[0][account]"]')->attr('value'),
            ],
        );
        self::assertSame(
            1,
            (int) $this->db()->fetchOne('SELECT COUNT(*) FROM document'),
            'nothing is entered by itself',
        );
    }

    public function testASplitIsKeptAndFillsToTheCent(): void
    {
        $form = [
            'party' => 'V-1',
            'number' => 'X',
            'document_date' => '.',
            'split_name' => 'rent by shop',
            '_split' => 'keep',
            'lines' => [
                ['account' => '6000', 'amount' => '1', 'text' => 'a'],
                ['account' => '6100', 'amount' => '1'],
                ['account' => '6200', 'amount' => '1', 'tax_code' => 'P8'],
            ],
        ];
        $kept = $this->post('/TEST/payables/invoice', '/TEST/payables/split/keep', $form);
        self::assertStringContainsString(
            'rent by shop: 33.33 % 6000, 33.33 % 6100, 33.33 % 6200',
            $kept->filter('option')->text(),
        );
        $id = (string) $kept->filter('option')->attr('value');
        $fill = function (string $query): array {
            $this->browser->request('GET', '/TEST/payables/split/fill?'.$query);
            $answer = json_decode((string) $this->browser->getResponse()->getContent(), true);

            return \is_array($answer) ? $answer : [];
        };
        // rules.md: 100.00 in three is 33.34 + 33.33 + 33.33
        $lines = $fill('template='.$id.'&total=100');
        self::assertSame(
            [['33.34', '6000', 'a', ''], ['33.33', '6100', '', ''], ['33.33', '6200', '', 'P8']],
            array_map(static fn (array $l): array => [$l['amount'], $l['account'], $l['text'], $l['tax_code']], $lines),
        );
        self::assertStringContainsString('is not an amount', $fill('template='.$id.'&total=x')['refused']);
        self::assertStringContainsString('no such template', $fill('template=999&total=1')['refused']);
        foreach (
            [
                ['split_name' => ''],
                ['lines' => [['account' => '6000', 'amount' => '1']]],
                ['lines' => [['account' => '6000', 'amount' => '1'], ['account' => '6100', 'amount' => '-1']]],
            ] as $wrong
        ) {
            $this->post('/TEST/payables/invoice', '/TEST/payables/split/keep', [...$form, ...$wrong]);
            self::assertSame(422, $this->browser->getResponse()->getStatusCode());
        }
        $share = function (array $amounts, string $total): array {
            $this->post('/TEST/payables/invoice', '/TEST/payables/split/share', [
                '_total' => $total,
                'lines' => array_map(static fn (string $a): array => ['account' => '6000', 'amount' => $a], $amounts),
            ]);

            return (array) json_decode((string) $this->browser->getResponse()->getContent(), true);
        };
        self::assertSame(['60.01', '40.00'], array_values($share(['60%', '40'], '100.01')));
        self::assertSame([0 => '33.34', 1 => '33.33', 3 => '33.33'], $share(['1', '1', '', '1'], '100'));
        self::assertStringContainsString('No line says its share', $share(['', ''], '100')['refused']);
        self::assertStringContainsString('is no share', $share(['-5', '10'], '100')['refused']);
        self::assertCount(
            0,
            $this->post('/TEST/payables/invoice', '/TEST/payables/split/keep', [
                '_split' => 'retire',
                'split_template' => $id,
            ])->filter('option'),
        );
    }

    public function testTheTrailShowsWhatADocumentLedTo(): void
    {
        $id = $this->invoice(Side::Payables, '100.00', ['document_date' => '2026-06-01']);
        $trail = static fn (Crawler $page): string => (string) $page->filter('.trail-later')->attr('hx-get');
        self::assertSame(
            '',
            trim($this->browser->request('GET', '/TEST/payables/document/'.$id.'/trail')->text('', false)),
            'it led to nothing yet',
        );
        self::assertCount(0, $this->browser->request('GET', '/TEST/payables/document/'.$id)->filter('.trail-later'));
        $payment = $this->money(
            Side::Payables,
            4000,
            [new PlacementRequest($this->itemOf($id), 4000)],
            [],
            '2026-06-05',
            \Nelbix\Core\Ledger\DocumentKind::Payment,
        );
        $credit = $this->invoice(Side::Payables, '10.00', [
            'kind' => 'credit_note',
            'number' => 'K',
            'against' => (string) $this->db()->fetchOne('SELECT number FROM document WHERE id = ?', [$id]),
        ]);
        $page = $this->browser->request('GET', '/TEST/payables/document/'.$id);
        $trail = $this->browser->request('GET', $trail($page))->filter('svg.trail');
        $links = array_unique(
            $trail
                ->filter('a:not([href*="/entry/"])')
                ->each(static fn (Crawler $a): string => (string) $a->attr('href')),
        );
        self::assertEqualsCanonicalizing(
            array_map(static fn (int $d): string => '/TEST/payables/document/'.$d, [$id, $payment, $credit]),
            $links,
            'every mark is a link',
        );
        self::assertCount(1, $trail->filter('.owed'));
        self::assertCount(4, $trail->filter('.ribbon'), 'one down and one along for each of payment and credit');
        // a payment of two fifths takes two fifths of the band's width
        self::assertMatchesRegularExpression('/^M[\d.]+ 72\.0L/', (string) $trail->filter('.owed')->attr('d'));
        self::assertStringNotContainsString('NAN', $trail->html());
    }

    /** Put right carries what was typed and works the rest out anew; its own original is no look-alike of it. */
    public function testPutRightCarriesWhatWasTyped(): void
    {
        $first = $this->invoice(Side::Receivables, '300.00');
        $credit = $this->invoice(Side::Receivables, '40.00', [
            'kind' => 'credit_note',
            'number' => 'OWN-7',
            'against' => (string) $this->db()->fetchOne('SELECT number FROM document WHERE id = ?', [$first]),
        ]);
        $settlement = (int) $this->db()->fetchOne('SELECT id FROM settlement WHERE document_id = ?', [$credit]);
        self::get(\Nelbix\App\Books\UndoSettlement::class)->undo($this->clerk, $settlement);
        $page = $this->page('/TEST/receivables/document/'.$credit.'/put-right');
        self::assertSame('OWN-7', $page->filter('#number')->attr('value'));
        self::assertStringStartsWith('CI-26-', (string) $page->filter('#against')->attr('value'));

        $typed = $this->invoice(Side::Payables, '100.00', [
            'due_date' => '2026-08-20',
            'number' => 'D-1',
            'lines' => [['account' => '5000', 'amount' => '100.00', 'tax_code' => 'P8']],
        ]);
        self::get(ChangePosted::class)->amend($this->clerk, $typed, null, 'box 7');
        $values = $this->putRightForm($typed);
        self::assertSame('20 Aug 2026', $values['due_date']);
        self::assertSame('', implode('', $values['tax'] ?? []), 'computed tax is worked out anew');
        $values['lines'][0]['amount'] = '150.00';
        $page = $this->post('/TEST/payables/document/'.$typed.'/put-right', '/TEST/payables/invoice', [
            ...$values,
            '_action' => 'post',
        ]);
        self::assertStringContainsString(
            'which puts VI-26-00001 right. Payables rose by 54.00 USD.',
            $page->filter('.said-done')->text(),
            'the net effect',
        );
        self::assertSame(
            ['2026-08-20', 'box 7', '16200'],
            array_map(
                strval(...),
                array_values(
                    $this->db()->fetchAssociative(
                        'SELECT due_date, reference, total FROM document WHERE replaces_id = ?',
                        [$typed],
                    ) ?:
                    [],
                ),
            ),
        );
        self::assertSame(
            '',
            $this->db()->fetchOne("SELECT detail FROM history WHERE action = 'reversed'"),
            'nobody gave a reason',
        );
        $like = $this->invoice(Side::Payables, '77.00', ['number' => 'L-1']);
        self::assertCount(
            0,
            $this->page('/TEST/payables/document/'.$like.'/put-right')->filter('#look_alike_reason'),
        );
    }

    /** Money that comes with an invoice posts the entries that stood beside the form, its discount and corrected tax included. */
    public function testTheFormPostsTheEntriesItShowed(): void
    {
        $this->db()->executeStatement("UPDATE tax_code SET discount_corrects_tax = 1, rate = 20 WHERE code = 'S8'");
        self::get(\Doctrine\ORM\EntityManagerInterface::class)->clear();
        self::get(\Nelbix\App\Codes\CodeBook::class)->reset();
        $raw = [
            'party' => 'C-1',
            'document_date' => self::DAY,
            'lines' => [['account' => '4000', 'amount' => '1000.00', 'tax_code' => 'S8']],
            'money_amount' => '1176.00',
            'money_bank' => '1000',
        ];
        $input = self::get(InvoiceReader::class)->read($this->clerk, Side::Receivables, $raw);
        $plan = self::get(\Nelbix\App\Invoices\InvoicePlanner::class)->plan($this->clerk, $input);
        $with = self::get(\Nelbix\App\Invoices\PostWithMoney::class);
        $shown = [$plan->entry, ...array_values($with->preview($this->clerk, $input, $plan))];
        $id = $with->post($this->clerk, $input);
        $posted = [];
        foreach ($this->db()->fetchFirstColumn('SELECT id FROM journal_entry ORDER BY id') as $entry) {
            $posted[] = self::get(\Nelbix\App\Ledger\LedgerWriter::class)->draftOf((int) $entry);
        }
        $lines = static fn (?\Nelbix\Core\Ledger\JournalDraft $d): array => array_map(
            static fn ($l): array => [$l->account, $l->base, $l->amount],
            $d->lines ?? [],
        );
        self::assertSame(array_map($lines, $shown), array_map($lines, $posted));
        self::assertSame(0, $this->open($this->itemOf($id)));
        self::assertSame(-20000 + 400, $this->balance('2200'), 'the discount took its tax with it');
    }
}
