<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\ChangePosted;
use Nelbix\App\Books\Document;
use Nelbix\App\Books\DocumentState;
use Nelbix\App\Books\JournalQuery;
use Nelbix\App\Books\MoneyThatLeft;
use Nelbix\App\Books\SettlementsOfDocument;
use Nelbix\App\Ledger\Source;
use Nelbix\App\People\Colleagues;
use Nelbix\App\People\HistoryQuery;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FileStore;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Paper;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\RememberedFilters;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemKind;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** A document's page, the list of documents, and what may be done with what is posted. */
#[Route('/{company}/{side}', requirements: ['company' => '[A-Z0-9]{2,12}', 'side' => 'payables|receivables'])]
final class DocumentController extends Screen
{
    private const COLUMNS = [
        'number',
        'their_number',
        'kind',
        'state',
        'party',
        'name',
        'document_date',
        'posting_date',
        'due',
        'currency',
        'total',
        'open',
        'batch',
        'by',
        'text',
    ];

    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly BooksDay $booksDay,
        private readonly Colleagues $colleagues,
        private readonly BeyondInvoices $beyond,
    ) {
    }

    #[Route('/documents', name: 'documents', methods: ['GET'])]
    #[Needs('see')]
    public function list(
        Desk $desk,
        Side $side,
        Request $request,
        DocumentListQuery $query,
        RememberedFilters $remembered,
    ): Response {
        $typed = $remembered->of($desk, $request, 'documents-'.$side->value, DocumentFilter::KEYS);
        $typed['state'] = isset(DocumentFilter::STATES[$typed['state']]) ? $typed['state'] : 'posted';
        $filter = new DocumentFilter(
            $desk->id(),
            $side,
            $desk->company->baseCurrency,
            $this->booksDay->input($desk->id()),
            $desk->today,
            $typed,
        );
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                $side->value.'-documents',
                self::COLUMNS,
                self::cells($query->each($filter)),
            );
        }
        $after = $request->query->get('after');

        return $this->render('invoices/list.html.twig', [
            'side' => $side,
            'filters' => $typed,
            'page' => $query->page($filter, \is_string($after) ? $after : null),
            'begun' => null !== $after,
            'foot' => $query->foot($filter),
            'errors' => self::byField($filter->problems->all),
            'kinds' => DocumentKind::cases(),
            'people' => $this->colleagues->of($desk->id()),
        ]);
    }

    /**
     * @param iterable<array<string, mixed>> $rows
     *
     * @return iterable<list<string>>
     */
    private static function cells(iterable $rows): iterable
    {
        $money = static fn (mixed $minor, array $r): string => null === $minor
            ? ''
            : Money::of((int) $minor, (string) $r['currency'])->decimal();
        foreach ($rows as $r) {
            yield [
                (string) $r['number'],
                (string) $r['their_number'],
                (string) $r['kind'],
                (string) $r['state'],
                (string) $r['code'],
                (string) $r['name'],
                (string) $r['document_date'],
                (string) $r['posting_date'],
                (string) $r['due_date'],
                (string) $r['currency'],
                $money($r['total'], $r),
                $money($r['open'], $r),
                (string) $r['batch_name'],
                (string) $r['by_name'],
                (string) $r['description'],
            ];
        }
    }

    #[Route('/document/{id<\d+>}', name: 'document', methods: ['GET'])]
    #[Needs('see')]
    public function show(
        Desk $desk,
        Side $side,
        int $id,
        DocumentQuery $query,
        JournalQuery $journal,
        HistoryQuery $history,
        SettlementsOfDocument $settled,
        FileStore $files,
        MoneyThatLeft $left,
        NotesQuery $notes,
        MatchQuery $match,
    ): Response {
        $document = $this->document($desk, $side, $id, true);
        if (DocumentState::Draft === $document->state) {
            return $this->redirectToRoute('invoice_draft', [
                'company' => $desk->company->code,
                'side' => $side->value,
                'id' => $id,
            ]);
        }

        $matched = $match->page($document);

        return $this->render('invoices/document.html.twig', [
            'side' => $side,
            'document' => $document,
            ...$matched,
            ...$query->names($document),
            ...$query->items($id),
            'lines' => $query->lines($id),
            'settlements' => $settled->of($id),
            'entries' => $journal->ofDocument($desk->id(), $id, Source::goodsSlips($matched['matched'])),
            'history' => $history->of($desk->id(), 'document', $id),
            'papers' => $files->of($desk->id(), 'paper', $id),
            'notes' => $notes->ofDocument($id),
            'colleagues' => $this->colleagues->of($desk->id()),
            'file' => $document->kind->isMoney() ? $left->fileOf($id) : null,
            'seen' => ChangePosted::digest($document),
            'actions' => $desk->enters($side) && $side === $document->side
                    ? $this->beyond->actions($desk->actor, $document)
                    : [],
            'claim' => $this->beyond->claim($document),
            'far_from' => $query->farFrom($document, $desk->company->baseCurrency),
        ]);
    }

    #[Route('/document/{id<\d+>}/invoice.pdf', name: 'document_pdf', methods: ['GET'])]
    #[Needs('see')]
    public function pdf(Desk $desk, Side $side, int $id, Paper $paper, InvoicePrint $print): Response
    {
        $document = $this->document($desk, $side, $id);
        if (Side::Receivables !== $side || !$document->kind->isInvoiced() || null === $document->number) {
            throw $this->createNotFoundException('Only posted customer invoices and notes have a PDF.');
        }

        return $paper->pdf(
            'invoices/invoice_pdf.html.twig',
            ['printed' => $print->of($desk->company, [$id])],
            $document->number,
        );
    }

    #[Route('/document/{id<\d+>}/invoice.xml', name: 'document_xml', methods: ['GET'])]
    #[Needs('see')]
    public function xml(Desk $desk, Side $side, int $id, InvoiceXml $invoiceXml): Response
    {
        $document = $this->document($desk, $side, $id);
        try {
            return new Response($invoiceXml->of($desk->company, $id), 200, [
                'Content-Type' => 'application/xml',
                'Content-Disposition' => 'attachment; filename="'.
                    preg_replace('/[^A-Za-z0-9._-]/', '-', (string) $document->number).
                    '.xml"',
            ]);
        } catch (\Nelbix\Core\Refused $e) {
            $this->addFlash('refused', $e->getMessage());

            return $this->redirectToRoute(
                'document',
                ['company' => $desk->company->code, 'side' => $side->value, 'id' => $id],
                303,
            );
        }
    }

    #[Route('/document/{id<\d+>}/change', name: 'document_change', methods: ['POST'])]
    #[Needs('enter')]
    public function change(Desk $desk, Side $side, int $id, Request $request, ChangePosted $change): Response
    {
        $document = $this->document($desk, $side, $id);
        $reason = mb_substr(trim((string) $request->request->get('reason', '')), 0, 255);

        return $this->act(
            function () use ($desk, $id, $document, $reason, $request, $change): string {
                switch ((string) $request->request->get('_action')) {
                    case 'hold':
                        $change->hold($desk->actor, $id, $reason);

                        return \sprintf('%s is held and will not be paid until it is released.', $document->number);
                    case 'amend':
                        $typed = trim((string) $request->request->get('due_date', ''));
                        $change->amend(
                            $desk->actor,
                            $id,
                            '' === $typed
                                ? null
                                : $this->booksDay
                                    ->input($desk->id())
                                    ->read($typed, 'due_date', $document->documentDate),
                            trim((string) $request->request->get('reference', '')),
                        );

                        return \sprintf('%s is changed; the books are not touched.', $document->number);
                    default:
                        throw \Nelbix\Core\Refused::because('', 'There is no such action.', ProblemKind::Unknown);
                }
            },
            'document',
            ['company' => $desk->company->code, 'side' => $side->value, 'id' => $id],
        );
    }

    /** Whoever holds it releases it, or somebody who approves; the use case says who. */
    #[Route('/document/{id<\d+>}/release', name: 'document_release', methods: ['POST'])]
    #[Needs('see')]
    public function release(Desk $desk, Side $side, int $id, ChangePosted $change): Response
    {
        $document = $this->document($desk, $side, $id);

        return $this->act(
            static function () use ($desk, $id, $document, $change): string {
                $change->release($desk->actor, $id);

                return \sprintf('%s is released.', $document->number);
            },
            'document',
            ['company' => $desk->company->code, 'side' => $side->value, 'id' => $id],
        );
    }

    #[Route('/document/{id<\d+>}/decide', name: 'document_decide', methods: ['POST'])]
    #[Needs(Permission::Approve)]
    public function decide(Desk $desk, Side $side, int $id, Request $request, ChangePosted $change): Response
    {
        $document = $this->document($desk, $side, $id);
        $approve = 'approve' === $request->request->get('_action');

        return $this->act(
            static function () use ($desk, $id, $document, $approve, $request, $change): string {
                $change->decide(
                    $desk->actor,
                    $id,
                    $approve,
                    mb_substr((string) $request->request->get('reason', ''), 0, 255),
                    (string) $request->request->get('_seen', ''),
                );

                return $approve
                    ? \sprintf(
                        $document->kind->isMoney()
                            ? '%s is approved and can be placed.'
                            : '%s is approved and can be paid.',
                        $document->number,
                    )
                    : \sprintf('%s goes back to its clerk.', $document->number);
            },
            'document',
            ['company' => $desk->company->code, 'side' => $side->value, 'id' => $id],
        );
    }

    /** @param bool $toRead a transfer has an item on the other side too, and is read there */
    private function document(Desk $desk, Side $side, int $id, bool $toRead = false): Document
    {
        $document = $this->entities->find(Document::class, $id);
        if (
            !($document instanceof Document)
            || $document->companyId !== $desk->id()
            || ($document->side !== $side && !($toRead && $document->kind->settlesItself()))
        ) {
            throw $this->createNotFoundException('There is no such document in this company.');
        }

        return $document;
    }
}
