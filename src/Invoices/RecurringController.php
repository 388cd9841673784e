<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Document;
use Nelbix\App\People\HistoryQuery;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Documents that come again: what comes when, and preparing what is due. */
#[Route('/{company}/{side}/recurring', requirements: ['company' => '[A-Z0-9]{2,12}', 'side' => 'payables|receivables'])]
final class RecurringController extends Screen
{
    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly KeepRecurring $keepRecurring,
        private readonly HistoryQuery $history,
    ) {
    }

    #[Route('', name: 'recurring', methods: ['GET'])]
    #[Needs('see')]
    public function list(Desk $desk, Side $side, Request $request): Response
    {
        $rows = [];
        foreach ($this->keepRecurring->of($desk->id(), $side) as $r) {
            $rows[] = ['record' => $r, 'next' => $r->stopped ? [] : $r->next(4)];
        }

        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                $side->value.'-recurring',
                ['name', 'party', 'every', 'weeks', 'until', 'times', 'amount', 'made', 'next', 'state'],
                array_map(
                    static fn (array $r): array => [
                        $r['record']->name,
                        (string) ($r['record']->form['party'] ?? ''),
                        $r['record']->every,
                        (string) $r['record']->weeks,
                        (string) $r['record']->untilOn?->iso(),
                        (string) $r['record']->most,
                        $r['record']->askAmount ? 'asked' : 'fixed',
                        (string) $r['record']->made,
                        [] === $r['next'] ? '' : $r['next'][0]->iso(),
                        $r['record']->stopped ? 'stopped' : ([] === $r['next'] ? 'over' : 'on'),
                    ],
                    $rows,
                ),
            );
        }

        return $this->render('invoices/recurring/list.html.twig', [
            'side' => $side,
            'rows' => $rows,
            'due' => \count(
                array_filter(
                    $rows,
                    static fn (array $r): bool => [] !== $r['next'] && !$r['next'][0]->isAfter($desk->today),
                ),
            ),
        ]);
    }

    #[Route('/like/{document<\d+>}', name: 'recurring_new', methods: ['GET'])]
    #[Needs('enter')]
    public function add(Desk $desk, Side $side, int $document): Response
    {
        $like = $this->document($desk, $side, $document);

        return $this->form($desk, $side, $like, [
            'name' => mb_substr($like->description, 0, 80),
            'every' => 'month',
            'first_on' => $like->documentDate?->plusMonths(1)->long() ?? '',
            'weeks' => '',
            'until_on' => '',
            'most' => '',
            'ask_amount' => '',
        ]);
    }

    #[Route('/like/{document<\d+>}', name: 'recurring_begin', methods: ['POST'])]
    #[Needs('enter')]
    public function begin(Desk $desk, Side $side, int $document, Request $request): Response
    {
        try {
            $this->keepRecurring->begin($desk->actor, $side, $document, $request->request->all());
        } catch (Refused $e) {
            return $this->form(
                $desk,
                $side,
                $this->document($desk, $side, $document),
                array_map(static fn (mixed $v): string => \is_string($v) ? $v : '', $request->request->all()),
                $e->problems,
            );
        }
        $this->say('It comes again. Each time it is prepared as a draft; nothing is posted by itself.');

        return $this->redirectToRoute('recurring', ['company' => $desk->company->code, 'side' => $side->value], 303);
    }

    #[Route('/days', name: 'recurring_days', methods: ['POST'])]
    #[Needs('enter')]
    public function days(Desk $desk, Side $side, Request $request): Response
    {
        return $this->render('invoices/recurring/_days.html.twig', $this->nextDays($desk, $request->request->all()));
    }

    #[Route('/prepare', name: 'recurring_prepare', methods: ['POST'])]
    #[Needs('enter')]
    public function prepare(Desk $desk, Side $side, PrepareRecurring $prepare): Response
    {
        return $this->act(
            static function () use ($desk, $side, $prepare): string {
                $made = $prepare->prepare($desk->actor, $desk->today, $side);

                return 0 === $made
                    ? 'Nothing was due.'
                    : \sprintf(
                        '%d %s prepared; they are on the list of drafts.',
                        $made,
                        1 === $made ? 'draft is' : 'drafts are',
                    );
            },
            'recurring',
            ['company' => $desk->company->code, 'side' => $side->value],
        );
    }

    #[Route('/{id<\d+>}/stop', name: 'recurring_stop', methods: ['POST'])]
    #[Needs('enter')]
    public function stop(Desk $desk, Side $side, int $id, Request $request): Response
    {
        $stop = 'stop' === $request->request->get('_action');

        return $this->act(
            function () use ($desk, $side, $id, $stop): string {
                $this->keepRecurring->stop($desk->actor, $side, $id, $stop);

                return $stop ? 'It comes no more. What was prepared stays.' : 'It goes on.';
            },
            'recurring',
            ['company' => $desk->company->code, 'side' => $side->value],
        );
    }

    #[Route('/{id<\d+>}', name: 'recurring_open', methods: ['GET'])]
    #[Needs('enter')]
    public function open(Desk $desk, Side $side, int $id): Response
    {
        $r = $this->recurring($desk, $side, $id);
        $held = static fn (string $key): string => \is_string($r->form[$key] ?? null) ? $r->form[$key] : '';

        return $this->opened($desk, $side, $r, [
            'name' => $r->name,
            'every' => $r->every,
            'weeks' => 'weeks' === $r->every ? (string) $r->weeks : '',
            'first_on' => $r->nextOn?->long() ?? '',
            'until_on' => $r->untilOn?->long() ?? '',
            'most' => (string) $r->timesLeft(),
            'ask_amount' => $r->askAmount ? 'yes' : '',
            'description' => $held('description'),
            'terms' => $held('terms'),
            'lines' => $r->form['lines'] ?? [],
        ]);
    }

    #[Route('/{id<\d+>}', name: 'recurring_change', methods: ['POST'])]
    #[Needs('enter')]
    public function change(Desk $desk, Side $side, int $id, Request $request, ChangeRecurring $change): Response
    {
        $raw = $request->request->all();
        try {
            $change->change($desk->actor, $side, $id, $raw, self::int($request->request, '_version'));
        } catch (Refused $e) {
            return $this->opened($desk, $side, $this->recurring($desk, $side, $id), $raw, $e->problems);
        }
        $this->say('Changed, from its next time on. What was prepared stays.');

        return $this->redirectToRoute('recurring', ['company' => $desk->company->code, 'side' => $side->value], 303);
    }

    private function recurring(Desk $desk, Side $side, int $id): Recurring
    {
        $recurring = $this->entities->find(Recurring::class, $id);

        return $recurring?->companyId === $desk->id() && $recurring->side === $side
            ? $recurring
            : throw $this->createNotFoundException('There is no such recurring document in this company.');
    }

    /**
     * @param array<mixed> $form
     * @param list<Problem> $problems
     */
    private function opened(Desk $desk, Side $side, Recurring $recurring, array $form, array $problems = []): Response
    {
        return $this->render(
            'invoices/recurring/change.html.twig',
            [
                'side' => $side,
                'recurring' => $recurring,
                'form' => $form,
                'problems' => $problems,
                'errors' => self::byField($problems),
                'history' => $this->history->of($desk->id(), 'recurring', $recurring->id()),
                ...$this->nextDays($desk, $form),
            ],
            new Response(null, [] === $problems ? 200 : 422),
        );
    }

    private function document(Desk $desk, Side $side, int $id): Document
    {
        $document = $this->entities->find(Document::class, $id);

        return null !== $document
            && $document->companyId === $desk->id()
            && $document->side === $side
            && $document->kind->isInvoiced()
            && null !== $document->number
            ? $document
            : throw $this->createNotFoundException('There is no such document in this company.');
    }

    /**
     * @param array<string, string> $form
     * @param list<Problem> $problems
     */
    private function form(Desk $desk, Side $side, Document $like, array $form, array $problems = []): Response
    {
        return $this->render(
            'invoices/recurring/form.html.twig',
            [
                'side' => $side,
                'like' => $like,
                'form' => $form,
                'problems' => $problems,
                'errors' => self::byField($problems),
                ...$this->nextDays($desk, $form),
            ],
            new Response(null, [] === $problems ? 200 : 422),
        );
    }

    /**
     * @param array<mixed> $raw
     *
     * @return array{days: list<\Nelbix\Core\Calendar\Day>, refusal: ?string}
     */
    private function nextDays(Desk $desk, array $raw): array
    {
        try {
            return ['days' => $this->keepRecurring->schedule($desk->actor, $raw)->next(0, 12), 'refusal' => null];
        } catch (Refused $e) {
            return ['days' => [], 'refusal' => $e->getMessage()];
        }
    }
}
