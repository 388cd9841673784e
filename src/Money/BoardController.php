<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Invoices\DocumentQuery;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\File\UploadedFile;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/**
 * The board on which money and credits are placed on what is owed: receipts, payments without a proposal, refunds of vendors, settling
 * without money.
 */
#[Route(
    '/{company}/{side}/{mode}',
    requirements: [
        'company' => '[A-Z0-9]{2,12}',
        'side' => 'payables|receivables',
        'mode' => 'receipt|payment|refund|settle',
    ],
),]
final class BoardController extends Screen
{
    public function __construct(
        private readonly BoardReader $reader,
        private readonly BoardView $view,
        private readonly PostBoard $postBoard,
        private readonly Transaction $transaction,
        private readonly DocumentQuery $documents,
        private readonly BankAccounts $banks,
        private readonly PeriodGate $periods,
        private readonly BoardSaid $said,
        private readonly ReceiptBatches $batches,
    ) {
    }

    #[Route('', name: 'board', methods: ['GET'])]
    #[Needs('enter')]
    public function enter(Desk $desk, Side $side, BoardMode $mode, Request $request): Response
    {
        $this->mayUse($desk, $side, $mode);
        $given = static fn (string $key): string => mb_substr((string) $request->query->get($key, ''), 0, 20);
        $raw = [
            'party' => $given('party'),
            'date' => '' === $given('date') ? $desk->today->long() : $given('date'),
            'bank' => $given('bank'),
            'method' => $given('method'),
            'amount' => $given('amount'),
            'kind' => $given('kind'),
            'asked' => $given('asked'),
            'kind_tax' => $given('kind_tax'),
            'batch' => $given('batch'),
            'line' => $given('line'),
            'reference' => mb_substr((string) $request->query->get('reference', ''), 0, 120),
            'their_reference' => mb_substr((string) $request->query->get('their_reference', ''), 0, 60),
            'bank_amount' => $given('bank_amount'),
        ];
        if ('' !== ($item = (string) $request->query->get('item', ''))) {
            $raw['_fit'] = $item;
        }

        return $this->board($desk, $side, $mode, $raw);
    }

    #[Route('/live', name: 'board_live', methods: ['POST'])]
    #[Needs('enter')]
    public function live(Desk $desk, Side $side, BoardMode $mode, Request $request): Response
    {
        $this->mayUse($desk, $side, $mode);

        return $this->render('money/live.html.twig', $this->view->of($desk, $side, $mode, $request->request->all()));
    }

    /** A list of open items that the customer marked: its placement, to be looked through and posted. */
    #[Route('/marked', name: 'board_marked', methods: ['POST'])]
    #[Needs('enter')]
    public function marked(Desk $desk, Side $side, BoardMode $mode, Request $request, MarkedList $list): Response
    {
        $this->mayUse($desk, $side, $mode);
        $raw = $request->request->all();
        $file = $request->files->get('list');
        try {
            if (BoardMode::Receipt !== $mode || !($file instanceof UploadedFile) || !$file->isValid()) {
                throw Refused::because(
                    'list',
                    'Choose the marked list first: CSV, or a workbook.',
                    ProblemKind::Missing,
                );
            }
            $read = $list->read($desk->actor, (string) file_get_contents($file->getPathname()));
        } catch (Refused $e) {
            return $this->board($desk, $side, $mode, $raw, $e->problems);
        }
        $marked = array_map(
            static fn (int $item, int $amount): string => "$item:$amount",
            array_keys($read['marked']),
            $read['marked'],
        );

        return $this->board($desk, $side, $mode, [
            ...$raw,
            'party' => $read['party'],
            'marked' => implode(',', $marked),
            '_idea' => '1',
        ]);
    }

    #[Route('', name: 'board_post', methods: ['POST'])]
    #[Needs('enter')]
    public function post(Desk $desk, Side $side, BoardMode $mode, Request $request): Response
    {
        $this->mayUse($desk, $side, $mode);
        $raw = $request->request->all();
        $key = FormKey::of($request);
        $board = $this->reader->read($desk, $side, $mode, $raw);
        $problems = $board->problems;
        $id = null;
        $made = [];
        try {
            if (null !== ($again = $this->sentAgain($desk, $side, $board, $key))) {
                return $again;
            }
            if ([] === $problems && (null !== $board->input || null !== $board->request)) {
                $this->periods->mustBeOpen($desk->id(), $board->date, [$side], 'date');
                $made = $this->postBoard->post(
                    $desk->actor,
                    $board,
                    (string) $request->request->get('number', ''),
                    $key,
                );
                $id = $made[0];
                if (null !== $board->request) {
                    return $this->settled($desk, $side, $board, $made);
                }
            }
        } catch (Refused $e) {
            $problems = $e->problems;
        }
        if (null === $id || [] === $made) {
            return $this->board(
                $desk,
                $side,
                $mode,
                $raw,
                [] === $problems
                    ? [new Problem('party', \sprintf('The %s is missing; choose one.', $side->partyWord()))]
                    : $problems,
            );
        }
        $next = 'next' === $request->request->get('_action');
        $this->say($this->said->posted($desk->actor, $board, $this->documents->number($id), $made, $next));
        $to = ['company' => $desk->company->code, 'side' => $side->value];

        if ('' !== $board->bankLine()) {
            return $this->redirectToRoute(
                'statement',
                ['company' => $desk->company->code, 'bank' => $board->input?->bankAccountId],
                303,
            );
        }

        return $next
            ? $this->redirectToRoute('board', [...$to, 'mode' => $mode->value, ...$this->kept($board)], 303)
            : $this->redirectToRoute('document', [...$to, 'id' => $id], 303);
    }

    /** @return array<string, string> what the next of the same pile has in common with this one */
    private function kept(Board $board): array
    {
        return array_filter([
            'date' => $board->date->long(),
            'bank' => \is_string($board->form['bank'] ?? null) ? $board->form['bank'] : '',
            'method' => $board->input->method ?? '',
            'batch' => (string) $board->input?->receiptBatchId,
        ]);
    }

    /**
     * A page that was posted already leads to what it made: what it placed is no longer open, which is no mistake of the clerk's.
     *
     * @throws Refused when there is something else in it now
     */
    private function sentAgain(Desk $desk, Side $side, Board $board, ?FormKey $key): ?Response
    {
        $to = ['company' => $desk->company->code, 'side' => $side->value];
        if (null !== ($id = $this->transaction->made($desk->actor, 'money', $key))) {
            $this->say(\sprintf('%s was posted already; this page was sent twice.', $this->documents->number($id)));

            return $this->redirectToRoute('document', [...$to, 'id' => $id], 303);
        }
        if (null !== $this->transaction->made($desk->actor, 'settlement', $key) && null !== $board->party) {
            $this->say('It was settled already; this page was sent twice.');

            return $this->redirectToRoute('party', [...$to, 'id' => $board->party->id()], 303);
        }

        return null;
    }

    /** @param non-empty-list<int> $made the settlement, and the documents that came of it */
    private function settled(Desk $desk, Side $side, Board $board, array $made): Response
    {
        \assert(null !== $board->party);
        $this->say($this->said->settled($desk->actor, $board, $made));

        return $this->redirectToRoute(
            'party',
            ['company' => $desk->company->code, 'side' => $side->value, 'id' => $board->party->id()],
            303,
        );
    }

    private function mayUse(Desk $desk, Side $side, BoardMode $mode): void
    {
        if (!$mode->fits($side)) {
            throw $this->createNotFoundException('There is no such board here.');
        }
        if (\in_array($mode, [BoardMode::Payment, BoardMode::Refund], true) && !$desk->may(Permission::PayVendors)) {
            throw $this->createAccessDeniedException('Your role does not pay vendors.');
        }
    }

    /**
     * @param array<mixed> $raw
     * @param list<Problem> $problems
     */
    private function board(Desk $desk, Side $side, BoardMode $mode, array $raw, array $problems = []): Response
    {
        return $this->render(
            'money/board.html.twig',
            [
                ...$this->view->of($desk, $side, $mode, $raw),
                'problems' => $problems,
                'errors' => self::byField($problems),
                'asked' => self::byField(
                    array_values(
                        array_filter($problems, static fn (Problem $p): bool => ProblemKind::Asks === $p->kind),
                    ),
                ),
                'key' => FormKey::goOn($raw),
                'banks' => $this->banks->names($desk->id()),
                'methods' => $mode->hasMoney() ? Method::of($mode) : [],
                'batch' => BoardMode::Receipt === $mode && \is_string($raw['batch'] ?? null) && ctype_digit($raw['batch'])
                        ? $this->batches->one($desk->id(), (int) $raw['batch'])
                        : null,
            ],
            new Response(null, [] === $problems ? 200 : 422),
        );
    }
}
