<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Journal;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Parties\Pickers;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** The form of an entry by hand, and its page once it waits or is posted. */
#[Route('/{company}/close/journal', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class JournalFormController extends Screen
{
    public function __construct(
        private readonly JournalReader $reader,
        private readonly KeepManualEntry $keep,
        private readonly PostManualEntry $post,
        private readonly RecurringEntries $recurring,
        private readonly ManualEntryBook $book,
        private readonly EntityManagerInterface $entities,
        private readonly Chart $chart,
        private readonly AroundEntry $around,
    ) {
    }

    #[Route('/new', name: 'journal_new', methods: ['GET'])]
    #[Needs(Permission::EnterJournal)]
    public function enter(Desk $desk): Response
    {
        return $this->form($desk, ['day' => $desk->today->long()], null);
    }

    #[Route('/live', name: 'journal_live', methods: ['POST'])]
    #[Needs(Permission::EnterJournal)]
    public function live(Desk $desk, Request $request): Response
    {
        return $this->render('close/journal/live.html.twig', $this->worked($desk, $request->request->all()));
    }

    #[Route(
        '/pick/{what}',
        name: 'journal_pick',
        requirements: ['what' => 'account|cost_center|department|project'],
        methods: ['GET'],
    ),]
    #[Needs(Permission::EnterJournal)]
    public function pick(Desk $desk, string $what, Request $request, Pickers $pickers): JsonResponse
    {
        return new JsonResponse(
            $pickers->find($desk->id(), Side::Payables, $what, (string) $request->query->get('q', '')),
        );
    }

    #[Route('/new', name: 'journal_enter', methods: ['POST'])]
    #[Needs(Permission::EnterJournal)]
    public function save(Desk $desk, Request $request): Response
    {
        return $this->saved($desk, $request, null);
    }

    #[Route('/{id<\d+>}', name: 'journal_one', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function one(Desk $desk, int $id): Response
    {
        $entry = $this->entry($desk, $id);
        if (ManualState::Draft === $entry->state && $desk->may(Permission::EnterJournal)) {
            return $this->form($desk, $entry->form, $entry);
        }
        $needsWord = $entry->bypass && null === $entry->allowedById;
        $needsApproval = null === $entry->approvedById && $this->book->isOverLimit($desk->actor, $entry->amount);

        return $this->render('close/journal/one.html.twig', [
            'entry' => $entry,
            ...$this->worked($desk, $entry->form),
            ...$this->around->of($entry),
            'needs_word' => $needsWord,
            'needs_approval' => $needsApproval,
            'decides' => ManualState::Waiting === $entry->state
                && (($needsWord && $desk->may(Permission::Control))
                    || ($needsApproval && $desk->may(Permission::Approve))),
        ]);
    }

    #[Route('/{id<\d+>}', name: 'journal_change', methods: ['POST'])]
    #[Needs(Permission::EnterJournal)]
    public function change(Desk $desk, int $id, Request $request): Response
    {
        return $this->saved($desk, $request, $this->entry($desk, $id));
    }

    private function saved(Desk $desk, Request $request, ?ManualEntry $entry): Response
    {
        $raw = $request->request->all();
        $version = self::int($request->request, '_version');
        $do = (string) $request->request->get('do', 'post');
        try {
            if ('draft' === $do) {
                $id = $this->keep->keep($desk->actor, $raw, $entry?->id(), $version, FormKey::of($request));
                $this->say('Kept as a draft. Nothing was posted.');

                return $this->redirectToRoute('journal_one', ['company' => $desk->company->code, 'id' => $id], 303);
            }
            $input = $this->reader->read($desk->actor, $raw);
            if ('again' === $do) {
                $this->recurring->keep($desk->actor, $input, $raw, FormKey::of($request));
                $this->say('It comes again: a draft of it is made on each of its days.');

                return $this->redirectToRoute(
                    'journal',
                    ['company' => $desk->company->code, 'show' => 'recurring'],
                    303,
                );
            }
            $posted = $this->post->post(
                $desk->actor,
                $input,
                $entry?->id(),
                $version,
                FormKey::of($request),
                mb_substr($request->request->getString('look_alike_reason'), 0, 255),
            );
        } catch (Refused $e) {
            return $this->form($desk, $raw, $entry, $e->problems);
        }
        $this->say(
            $posted->waits
                ? 'It waits for somebody else. Nothing is posted yet.'
                : \sprintf(
                    'Posted %s%s.',
                    $posted->number,
                    null === $input->reversesOn ? '' : ', taken back on '.$input->reversesOn->long(),
                ),
        );

        return $posted->waits
            ? $this->redirectToRoute('journal_one', ['company' => $desk->company->code, 'id' => $posted->id], 303)
            : $this->redirectToRoute('entry', ['company' => $desk->company->code, 'number' => $posted->number], 303);
    }

    /**
     * @param array<mixed> $raw
     * @param list<Problem> $problems
     */
    private function form(Desk $desk, array $raw, ?ManualEntry $entry, array $problems = []): Response
    {
        return $this->render(
            'close/journal/form.html.twig',
            [
                ...$this->worked($desk, $raw),
                'entry' => $entry,
                'form' => array_filter($raw, \is_string(...)),
                'rows' => self::formLines($raw, JournalReader::LINE, 4),
                'problems' => $problems,
                'errors' => self::byField($problems),
                'key' => FormKey::goOn($raw),
                ...$this->around->of($entry),
            ],
            new Response(status: [] === $problems ? 200 : 422),
        );
    }

    /**
     * @param array<mixed> $raw
     *
     * @return array<string, mixed> the entry as it would be posted, or what stands in its way
     */
    private function worked(Desk $desk, array $raw): array
    {
        $input = null;
        $typed = [];
        try {
            $input = $this->reader->read($desk->actor, $raw);
        } catch (Refused $e) {
            $typed = $e->problems;
        }

        return ['input' => $input, 'typed' => $typed, 'accounts' => $this->chart->accounts($desk->id())];
    }

    private function entry(Desk $desk, int $id): ManualEntry
    {
        $entry = $this->found($this->entities->find(ManualEntry::class, $id), $desk->id());
        \assert($entry instanceof ManualEntry);

        return $entry;
    }
}
