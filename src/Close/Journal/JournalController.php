<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Journal;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Parties\Pickers;
use Nelbix\App\People\HistoryQuery;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FileStore;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Words;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\File\UploadedFile;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Entries by hand: drafts, what waits, what is posted, what comes again. */
#[Route('/{company}/close/journal', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class JournalController extends Screen
{
    public function __construct(
        private readonly JournalReader $reader,
        private readonly PostManualEntry $post,
        private readonly EntityManagerInterface $entities,
        private readonly Chart $chart,
        private readonly FileStore $files,
        private readonly HistoryQuery $history,
    ) {
    }

    #[Route('', name: 'journal', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function list(Desk $desk, Request $request, ManualEntriesQuery $query): Response
    {
        $show = isset(ManualEntriesQuery::SHOW[$request->query->get('show')])
            ? (string) $request->query->get('show')
            : 'open';

        return $this->render('close/journal/list.html.twig', [
            'show' => $show,
            'page' => $query->page($desk->id(), $show, $request->query->getString('after')),
            'begun' => $request->query->has('after'),
        ]);
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
    public function save(Desk $desk, Request $request, RecurringEntries $recurring): Response
    {
        return $this->saved($desk, $request, null, $recurring);
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
        $needsApproval = null === $entry->approvedById && $this->post->isOverLimit($desk->actor, $entry);

        return $this->render('close/journal/one.html.twig', [
            'entry' => $entry,
            ...$this->worked($desk, $entry->form),
            'history' => $this->history->of($desk->id(), 'manual_entry', $id),
            'papers' => $this->files->of($desk->id(), 'journal', $id),
            'needs_word' => $needsWord,
            'needs_approval' => $needsApproval,
            'decides' => ManualState::Waiting === $entry->state
                && (($needsWord && $desk->may(Permission::Control))
                    || ($needsApproval && $desk->may(Permission::Approve))),
        ]);
    }

    #[Route('/{id<\d+>}', name: 'journal_change', methods: ['POST'])]
    #[Needs(Permission::EnterJournal)]
    public function change(Desk $desk, int $id, Request $request, RecurringEntries $recurring): Response
    {
        return $this->saved($desk, $request, $this->entry($desk, $id), $recurring);
    }

    #[Route('/{id<\d+>}/decide', name: 'journal_decide', methods: ['POST'])]
    #[Needs(Permission::SeeLedger)]
    public function decide(Desk $desk, int $id, Request $request): Response
    {
        return $this->act(
            function () use ($desk, $id, $request): string {
                $version = self::int($request->request, '_version');
                $why = $request->request->getString('why');
                if ('back' === $request->request->get('do')) {
                    $this->post->sendBack($desk->actor, $id, $version, $why);

                    return 'Sent back to who entered it. Nothing was posted.';
                }
                $did = $this->post->decide($desk->actor, $id, $version, $why, $this->reader);

                return $did['waits']
                    ? 'Noted. It waits for another person still; nothing is posted yet.'
                    : \sprintf('Posted %s.', $did['number']);
            },
            'journal_one',
            ['company' => $desk->company->code, 'id' => $id],
        );
    }

    #[Route('/{id<\d+>}/drop', name: 'journal_drop', methods: ['POST'])]
    #[Needs(Permission::EnterJournal)]
    public function drop(Desk $desk, int $id, Request $request, RecurringEntries $recurring): Response
    {
        return $this->act(
            function () use ($desk, $id, $request, $recurring): string {
                if ('stop' === $request->request->get('do')) {
                    $recurring->stop($desk->actor, $id);

                    return 'It comes no more. Drafts that were made stay.';
                }
                $this->post->drop($desk->actor, $id, self::int($request->request, '_version'));

                return 'Dropped. Nothing was posted.';
            },
            'journal',
            ['company' => $desk->company->code],
        );
    }

    #[Route('/due', name: 'journal_prepare', methods: ['POST'])]
    #[Needs(Permission::EnterJournal)]
    public function prepare(Desk $desk, RecurringEntries $recurring): Response
    {
        return $this->act(
            static fn (): string => \sprintf(
                'Made %s of what is due through %s.',
                Words::count($recurring->prepare($desk->actor, $desk->today), 'draft'),
                $desk->today->long(),
            ),
            'journal',
            ['company' => $desk->company->code],
        );
    }

    #[Route('/reverse/{id<\d+>}', name: 'journal_reverse', methods: ['POST'])]
    #[Needs(Permission::EnterJournal)]
    public function reverse(
        Desk $desk,
        int $id,
        Request $request,
        ReverseManualEntry $reverse,
        BooksDay $booksDay,
    ): Response {
        return $this->act(
            static function () use ($desk, $id, $request, $reverse, $booksDay): string {
                $typed = trim($request->request->getString('day'));
                $on = '' === $typed ? null : $booksDay->input($desk->id())->read($typed, 'day');
                $number = $reverse->reverse($desk->actor, $id, $request->request->getString('why'), $on);

                return \sprintf('Reversed by %s.', $number);
            },
            'entry',
            ['company' => $desk->company->code, 'number' => self::number($request)],
        );
    }

    #[Route('/{id<\d+>}/paper', name: 'journal_paper_add', methods: ['POST'])]
    #[Needs(Permission::EnterJournal)]
    public function addPaper(Desk $desk, int $id, Request $request): Response
    {
        $entry = $this->entry($desk, $id);

        return $this->act(
            function () use ($desk, $entry, $request): string {
                $upload = $request->files->get('file');
                if (!($upload instanceof UploadedFile) || !$upload->isValid()) {
                    throw Refused::because('file', 'Choose a PDF or a picture of at most 20 MB.');
                }
                $this->files->keep(
                    $desk->actor,
                    'journal',
                    $entry->id(),
                    $upload->getClientOriginalName(),
                    $upload->getContent(),
                    FileStore::PAPERS,
                );

                return 'The paper stays with the entry.';
            },
            'journal_one',
            ['company' => $desk->company->code, 'id' => $id],
        );
    }

    #[Route('/{id<\d+>}/paper/{paper<\d+>}', name: 'journal_paper', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function paper(Desk $desk, int $id, int $paper): Response
    {
        $file = $this->files->read($desk->id(), 'journal', $paper);
        if (null === $file || $file['subject_id'] !== $id) {
            throw $this->createNotFoundException('There is no such paper.');
        }

        return new Response($file['content'], 200, [
            'Content-Type' => $file['media_type'],
            'Content-Disposition' => 'attachment; filename="'.FileStore::downloadName($file['name'], $file['media_type']).'"',
        ]);
    }

    private function saved(Desk $desk, Request $request, ?ManualEntry $entry, RecurringEntries $recurring): Response
    {
        $raw = $request->request->all();
        $version = self::int($request->request, '_version');
        $do = (string) $request->request->get('do', 'post');
        try {
            if ('draft' === $do) {
                $id = $this->post->keep($desk->actor, $raw, $entry?->id(), $version);
                $this->say('Kept as a draft. Nothing was posted.');

                return $this->redirectToRoute('journal_one', ['company' => $desk->company->code, 'id' => $id], 303);
            }
            $input = $this->reader->read($desk->actor, $raw);
            if ('again' === $do) {
                $recurring->keep($desk->actor, $input, $raw);
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
            $posted['waits']
                ? 'It waits for somebody else. Nothing is posted yet.'
                : \sprintf(
                    'Posted %s%s.',
                    $posted['number'],
                    null === $input->reversesOn ? '' : ', taken back on '.$input->reversesOn->long(),
                ),
        );

        return $posted['waits']
            ? $this->redirectToRoute('journal_one', ['company' => $desk->company->code, 'id' => $posted['id']], 303)
            : $this->redirectToRoute('entry', ['company' => $desk->company->code, 'number' => $posted['number']], 303);
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
                'papers' => null === $entry ? [] : $this->files->of($desk->id(), 'journal', $entry->id()),
                'history' => null === $entry ? [] : $this->history->of($desk->id(), 'manual_entry', $entry->id()),
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

    private static function number(Request $request): string
    {
        $number = $request->request->getString('number');

        return 1 === preg_match('/\A[A-Z0-9-]{1,30}\z/', $number) ? $number : '-';
    }
}
