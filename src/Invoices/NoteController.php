<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Notes and tasks on documents, and the list of one's own tasks. */
#[Route('/{company}', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class NoteController extends Screen
{
    public function __construct(private readonly WriteNote $writeNote)
    {
    }

    #[Route(
        '/{side}/document/{id<\d+>}/note',
        name: 'note_write',
        requirements: ['side' => 'payables|receivables'],
        methods: ['POST'],
    ),]
    #[Needs('see')]
    public function write(Desk $desk, Side $side, int $id, Request $request, BooksDay $booksDay): Response
    {
        return $this->keep($desk, $side, 'document', $id, $request, $booksDay, $this->writeNote->write(...));
    }

    #[Route(
        '/{side}/party/{id<\d+>}/note',
        name: 'party_note_write',
        requirements: ['side' => 'payables|receivables'],
        methods: ['POST'],
    ),]
    #[Needs('see')]
    public function writeOnParty(Desk $desk, Side $side, int $id, Request $request, BooksDay $booksDay): Response
    {
        return $this->keep($desk, $side, 'party', $id, $request, $booksDay, $this->writeNote->writeOnParty(...));
    }

    #[Route('/task/{note<\d+>}/done', name: 'note_done', methods: ['POST'])]
    #[Needs(Permission::Enter)]
    public function done(Desk $desk, int $note): Response
    {
        $this->mayWrite($desk);

        return $this->act(
            function () use ($desk, $note): string {
                $this->writeNote->done($desk->actor, $note);

                return 'The task is done.';
            },
            'tasks',
            ['company' => $desk->company->code],
        );
    }

    #[Route('/tasks', name: 'tasks', methods: ['GET'])]
    #[Needs(Permission::Enter)]
    public function tasks(Desk $desk, Request $request, TasksQuery $tasks): Response
    {
        $sides = array_values(array_filter(Side::cases(), $desk->sees(...)));
        $rows = $tasks->of($desk->id(), $sides, $desk->actor->userId);
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'tasks',
                ['document', 'party', 'text', 'from', 'for', 'due'],
                array_map(
                    static fn (array $r): array => [
                        (string) ($r['number'] ?? (null === $r['document_id'] ? '' : 'draft '.$r['document_id'])),
                        (string) $r['party'],
                        (string) $r['text'],
                        (string) $r['by_name'],
                        (string) $r['for_name'],
                        (string) $r['due_on'],
                    ],
                    $rows,
                ),
            );
        }

        return $this->render('invoices/tasks.html.twig', ['rows' => $rows]);
    }

    /**
     * @param string $on document or party: the page that it is written on
     * @param \Closure(Actor, Side, int, string, string, ?Day): void $write
     */
    private function keep(
        Desk $desk,
        Side $side,
        string $on,
        int $id,
        Request $request,
        BooksDay $booksDay,
        \Closure $write,
    ): Response {
        $this->mayWrite($desk);
        $text = static fn (string $key): string => trim((string) $request->request->get($key, ''));

        return $this->act(
            static function () use ($desk, $side, $on, $id, $text, $booksDay, $write): string {
                $due = '' === $text('due_on') ? null : $booksDay->input($desk->id())->read($text('due_on'), 'due_on');
                $write($desk->actor, $side, $id, $text('text'), $text('for'), $due);

                return '' === $text('for')
                    ? \sprintf('The note is kept with the %s.', 'party' === $on ? $side->partyWord() : $on)
                    : 'The task is given; it stands on their Today.';
            },
            $on,
            ['company' => $desk->company->code, 'side' => $side->value, 'id' => $id, '_fragment' => 'notes'],
        );
    }

    private function mayWrite(Desk $desk): void
    {
        if (!$desk->may(Permission::WriteNotes)) {
            throw $this->createAccessDeniedException('Your role reads everything and writes nothing here.');
        }
    }
}
