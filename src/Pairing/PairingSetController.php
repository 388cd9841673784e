<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FileStore;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Formats\Statement\CsvMapping;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\File\UploadedFile;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** What a pairing set is made of: entered, changed, retired, or made of a vendor's statement. */
#[Route('/{company}/pairing', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class PairingSetController extends Screen
{
    public function __construct(
        private readonly PairingDesk $pairing,
        private readonly SaveSet $saveSet,
        private readonly BankAccounts $banks,
        private readonly FileStore $files,
    ) {
    }

    #[Route('/new', name: 'pairing_new', methods: ['GET'])]
    #[Needs(Permission::PairRecords)]
    public function enter(Desk $desk): Response
    {
        return $this->form(
            $desk,
            null,
            ['left' => ['kind' => 'account'], 'right' => ['kind' => 'file'], 'turned' => 'none', 'adjusts' => 'left'],
            [],
        );
    }

    #[Route('/{id<\d+>}/edit', name: 'pairing_edit', methods: ['GET'])]
    #[Needs(Permission::PairRecords)]
    public function edit(Desk $desk, int $id, SetForm $form): Response
    {
        $set = $this->pairing->set($desk, $id);

        return $this->form($desk, $set, $form->of($set), []);
    }

    #[Route('', name: 'pairing_add', methods: ['POST'])]
    #[Needs(Permission::PairRecords)]
    public function add(Desk $desk, Request $request): Response
    {
        return $this->save($desk, $request, null);
    }

    #[Route('/{id<\d+>}/edit', name: 'pairing_save', methods: ['POST'])]
    #[Needs(Permission::PairRecords)]
    public function change(Desk $desk, int $id, Request $request): Response
    {
        return $this->save($desk, $request, $this->pairing->set($desk, $id));
    }

    /** A vendor's statement that was checked, to be worked off. */
    #[Route('/from-statement', name: 'pairing_from_statement', methods: ['POST'])]
    #[Needs(Permission::PairRecords)]
    public function fromStatement(Desk $desk, Request $request, SetOfStatement $make): Response
    {
        if (!$desk->may(Permission::SeePayables)) {
            throw $this->createAccessDeniedException('Your role does not see payables.');
        }
        try {
            $id = $make->make(
                $desk,
                mb_substr((string) $request->request->get('party', ''), 0, 20),
                mb_substr((string) $request->request->get('statement', ''), 0, 1_000_000),
            );
        } catch (Refused $e) {
            $this->refused($e);

            return $this->redirectToRoute('statement_check', ['company' => $desk->company->code], 303);
        }
        $this->say('The statement is a pairing set now; what both have is paired, what is over stands below.');

        return $this->redirectToRoute('pairing_set', ['company' => $desk->company->code, 'id' => $id], 303);
    }

    private function save(Desk $desk, Request $request, ?PairingSet $set): Response
    {
        $raw = $request->request->all();
        try {
            $look = false;
            foreach (['left', 'right'] as $side) {
                $raw[$side] = \is_array($raw[$side] ?? null) ? $raw[$side] : [];
                $upload = $request->files->all()[$side]['upload'] ?? null;
                if ('file' === ($raw[$side]['kind'] ?? '') && $upload instanceof UploadedFile) {
                    [$raw[$side], $look] = [$this->uploaded($desk, $upload, $raw[$side], $side), true];
                }
            }
            if ($look) {
                throw Refused::because(
                    'file',
                    'The file is read; look at its columns, say which fields correspond, and keep the set.',
                );
            }
            if ('retire' === ($raw['_action'] ?? '') && null !== $set) {
                $this->saveSet->retire($desk, $set->id(), !$set->retired);

                return $this->redirectToRoute('pairing', ['company' => $desk->company->code], 303);
            }
            $id = $this->saveSet->save($desk, $raw, $set?->id());
        } catch (Refused $e) {
            return $this->form($desk, $set, $raw, $e->problems);
        }
        $this->say('The set is kept. Its rules say what belongs together.');

        return $this->redirectToRoute('pairing_set', ['company' => $desk->company->code, 'id' => $id], 303);
    }

    /**
     * @param array<mixed> $raw
     *
     * @return array<mixed> with the file and its columns as they are likely meant
     *
     * @throws Refused when it is no CSV
     */
    private function uploaded(Desk $desk, UploadedFile $upload, array $raw, string $side): array
    {
        if (!$upload->isValid()) {
            throw Refused::because(
                $side.'.file',
                'The file did not arrive whole; it may be too big. Choose it again.',
            );
        }
        $bytes = $upload->getContent();
        $rows = CsvMapping::firstRows($bytes);
        $guess = CsvMapping::guess($rows);
        $text = mb_check_encoding($bytes, 'UTF-8')
            ? $bytes
            : (string) mb_convert_encoding($bytes, 'UTF-8', 'Windows-1252');
        $id = $this->files->keep($desk->actor, SourceRows::SUBJECT, null, $upload->getClientOriginalName(), $text, [
            'text/csv',
        ]);

        return [
            ...$raw,
            'file' => (string) $id,
            'days' => $guess->days,
            'decimal' => $guess->decimal,
            'columns' => array_filter([
                'amount' => $guess->columns['amount'] ?? '',
                'date' => $guess->columns['day'] ?? '',
                'number' => $guess->columns['reference'] ?? '',
                'text' => $guess->columns['text'] ?? '',
                'party' => $guess->columns['party'] ?? '',
            ]),
        ];
    }

    /**
     * @param array<mixed> $form
     * @param list<Problem> $problems
     */
    private function form(Desk $desk, ?PairingSet $set, array $form, array $problems): Response
    {
        $headings = $known = [];
        foreach (['left', 'right'] as $side) {
            $kind =
                \is_array($form[$side] ?? null) && \is_string($form[$side]['kind'] ?? null) ? $form[$side]['kind'] : '';
            $known[$side] = Source::FIELDS[$kind] ?? ['number', 'text', 'party'];
            $file =
                \is_array($form[$side] ?? null) && \is_string($form[$side]['file'] ?? null)
                    ? (int) $form[$side]['file']
                    : 0;
            $kept = $file > 0 ? $this->files->read($desk->id(), SourceRows::SUBJECT, $file) : null;
            $headings[$side] = null === $kept ? [] : CsvMapping::firstRows($kept['content'], 6);
        }

        return $this->render(
            'pairing/form.html.twig',
            [
                'set' => $set,
                'form' => $form,
                'problems' => $problems,
                'errors' => self::byField($problems),
                'kinds' => Source::KINDS,
                'known' => $known,
                'headings' => $headings,
                'days' => CsvMapping::DAYS,
                'banks' => $this->banks->names($desk->id()),
                'rows' => self::fieldRows($form),
            ],
            new Response(null, [] === $problems ? 200 : 422),
        );
    }

    /**
     * @param array<mixed> $form
     *
     * @return list<array<string, string>>
     */
    private static function fieldRows(array $form): array
    {
        $rows = [];
        foreach (\is_array($form['fields'] ?? null) ? $form['fields'] : [] as $row) {
            if (\is_array($row)) {
                $rows[] = array_map(
                    static fn (mixed $v): string => \is_string($v) ? $v : '',
                    $row + ['name' => '', 'left' => '', 'right' => ''],
                );
            }
        }

        return array_pad($rows, 3, ['name' => '', 'left' => '', 'right' => '']);
    }
}
