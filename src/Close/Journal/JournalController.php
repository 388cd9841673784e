<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Journal;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FileStore;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Words;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\File\UploadedFile;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Entries by hand: their list, decisions, what comes again, papers, reversal. */
#[Route('/{company}/close/journal', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class JournalController extends Screen
{
    public function __construct(private readonly DecideManualEntry $decide, private readonly FileStore $files)
    {
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

    #[Route('/{id<\d+>}/decide', name: 'journal_decide', methods: ['POST'])]
    #[Needs(Permission::SeeLedger)]
    public function decide(Desk $desk, int $id, Request $request): Response
    {
        return $this->act(
            function () use ($desk, $id, $request): string {
                $version = self::int($request->request, '_version');
                $why = $request->request->getString('why');
                if ('back' === $request->request->get('do')) {
                    $this->decide->sendBack($desk->actor, $id, $version, $why);

                    return 'Sent back to who entered it. Nothing was posted.';
                }
                $did = $this->decide->accept($desk->actor, $id, $version, $why);

                return $did->waits
                    ? 'Noted. It waits for another person still; nothing is posted yet.'
                    : \sprintf('Posted %s.', $did->number);
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
                $this->decide->drop($desk->actor, $id, self::int($request->request, '_version'));

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
    public function addPaper(Desk $desk, int $id, Request $request, EntityManagerInterface $entities): Response
    {
        $this->found($entities->find(ManualEntry::class, $id), $desk->id());

        return $this->act(
            function () use ($desk, $id, $request): string {
                $upload = $request->files->get('file');
                if (!($upload instanceof UploadedFile) || !$upload->isValid()) {
                    throw Refused::because('file', 'Choose a PDF or a picture of at most 20 MB.');
                }
                $this->files->keep(
                    $desk->actor,
                    'journal',
                    $id,
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

    private static function number(Request $request): string
    {
        $number = $request->request->getString('number');

        return 1 === preg_match('/\A[A-Z0-9-]{1,30}\z/', $number) ? $number : '-';
    }
}
