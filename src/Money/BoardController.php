<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Books\SettlementBook;
use Nelbix\App\Books\WhatItDid;
use Nelbix\App\Invoices\DocumentQuery;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\People\Colleagues;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Transaction;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
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
        private readonly PostBoard $postBoard,
        private readonly PostMoney $postMoney,
        private readonly Transaction $transaction,
        private readonly SettlementBook $book,
        private readonly Chart $chart,
        private readonly DocumentQuery $documents,
        private readonly BankAccounts $banks,
        private readonly PeriodGate $periods,
        private readonly WhatItDid $did,
        private readonly Colleagues $colleagues,
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

        return $this->render('money/live.html.twig', $this->worked($desk, $side, $mode, $request->request->all()));
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
                    return $this->settled($desk, $side, $board);
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
        $number = $this->documents->number($id);
        $left = null === $board->input?->restTo && !$board->givesBack() ? $board->left() : 0;
        $next = 'next' === $request->request->get('_action');
        $this->say(
            implode(
                ' ',
                array_filter([
                    \sprintf('Posted %s.', $number),
                    $this->did->words($desk->actor, $made),
                    $left <= 0
                        ? ''
                        : \sprintf(
                            '%s %s %s.',
                            Typography::amount($left, $board->currency),
                            $board->currency,
                            $board->restBecomes(),
                        ),
                    self::claimed($board),
                    'print' === $board->input?->method
                        ? \sprintf('Print its check from %s page.', $next ? 'its' : 'this')
                        : '',
                    $next || [] === $board->placed ? '' : 'Undo the settlement on this page if it was placed wrongly.',
                ]),
            ),
        );

        $to = ['company' => $desk->company->code, 'side' => $side->value];

        return $next
            ? $this->redirectToRoute('board', [...$to, 'mode' => $mode->value, ...$this->kept($board)], 303)
            : $this->redirectToRoute('document', [...$to, 'id' => $id], 303);
    }

    /** What was claimed, or asked to be let go, in words; '' for nothing. */
    private static function claimed(Board $board): string
    {
        $said = [];
        foreach ($board->claims as $claim) {
            $amount = Typography::amount($claim->amount, $board->currency).' '.$board->currency;
            $said[] =
                null === $claim->writeOffAs
                    ? \sprintf('%s is a claim.', $amount)
                    : \sprintf(
                        '%s waits as a claim until somebody else approves: %s.',
                        $amount,
                        $claim->writeOffAs->word(),
                    );
        }

        return implode(' ', $said);
    }

    /** @return array<string, string> what the next of the same pile has in common with this one */
    private function kept(Board $board): array
    {
        return array_filter([
            'date' => $board->date->long(),
            'bank' => \is_string($board->form['bank'] ?? null) ? $board->form['bank'] : '',
            'method' => $board->input->method ?? '',
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

    private function settled(Desk $desk, Side $side, Board $board): Response
    {
        \assert(null !== $board->party);
        $this->say(
            trim(
                \sprintf(
                    'Settled %s %s of %s without money. Undo it on the page of any of its documents. %s',
                    Typography::amount($board->money(), $board->currency),
                    $board->currency,
                    $board->party->name,
                    self::claimed($board),
                ),
            ),
        );

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
                ...$this->worked($desk, $side, $mode, $raw),
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
            ],
            new Response(null, [] === $problems ? 200 : 422),
        );
    }

    /**
     * @param array<mixed> $raw
     *
     * @return array<string, mixed>
     */
    private function worked(Desk $desk, Side $side, BoardMode $mode, array $raw): array
    {
        $board = $this->reader->read($desk, $side, $mode, $raw);
        $preview = null;
        $refusal = null;
        try {
            if (null !== $board->input && $board->amount > 0) {
                $preview = $this->postMoney->preview($desk->actor, $board->input, $this->asStored($board));
            } elseif (null !== $board->request && [] !== $board->request->placements && 0 === $board->left()) {
                $preview = [
                    'money' => null,
                    'settlement' => $this->book->draft($desk->actor, $board->request, $board->items)->entry,
                ];
            }
        } catch (Refused $e) {
            $refusal = $e->getMessage();
        }
        $typed = array_filter($board->problems, static fn (Problem $p): bool => ProblemKind::Missing !== $p->kind);

        return [
            'board' => $board,
            'side' => $side,
            'mode' => $mode,
            'form' => $board->form,
            'preview' => $preview,
            'exchange' => $this->exchange($desk, $preview),
            'refusal' => $refusal,
            'typed' => self::byField(array_values($typed)),
            'accounts' => $this->chart->accounts($desk->id()),
            'claim_kinds' => ClaimKind::chosen(),
            'errors' => [],
            'people' => BoardMode::Payment === $mode ? [] : $this->colleagues->of($desk->id()),
            'next_check' => 'print' === $board->input?->method ? $this->banks->nextCheck($board->input->bankAccountId) : null,
        ];
    }

    /**
     * What the entries realise as an exchange difference, base minor units: a loss +, a gain −.
     *
     * @param array{money: ?JournalDraft, settlement: ?JournalDraft}|null $preview
     */
    private function exchange(Desk $desk, ?array $preview): int
    {
        if (null === $preview) {
            return 0;
        }
        $account = $this->chart->role($desk->id(), AccountRole::ExchangeRealised);

        return (int) $preview['money']?->movementOn($account) + (int) $preview['settlement']?->movementOn($account);
    }

    /** @return array<int, \Nelbix\Core\OpenItems\OpenItem> in their own sign: a refund's board sees them from the other side */
    private function asStored(Board $board): array
    {
        return array_map(
            static fn ($i) => new \Nelbix\Core\OpenItems\OpenItem(
                $i->id,
                $i->side,
                $i->party,
                $i->kind,
                $i->number,
                $i->account,
                $i->currency,
                $board->mode->sign() * $i->original,
                $board->mode->sign() * $i->originalBase,
                $board->mode->sign() * $i->open,
                $board->mode->sign() * $i->openBase,
                $i->posted,
                $i->due,
            ),
            $board->items,
        );
    }
}
