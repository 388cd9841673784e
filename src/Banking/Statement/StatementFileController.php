<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FileStore;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\StandIns;
use Nelbix\App\Platform\Words;
use Nelbix\Core\Formats\Statement\CsvMapping;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\File\UploadedFile;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Statements come in: as a file of the bank, as CSV whose columns are looked at first, typed, or from the bank's stand-in. */
#[Route('/{company}/bank/{bank<\d+>}/statement', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class StatementFileController extends Screen
{
    public function __construct(
        private readonly BankAccounts $banks,
        private readonly StatementQuery $query,
        private readonly TakeFile $takeFile,
        private readonly TakeStatement $takeStatement,
        private readonly Mappings $mappings,
        private readonly StandIns $standIns,
    ) {
    }

    #[Route('/new', name: 'statement_new', methods: ['GET'])]
    #[Needs(Permission::PlaceBankLines)]
    public function enter(Desk $desk, int $bank): Response
    {
        return $this->page($desk, $this->account($desk, $bank), []);
    }

    /**
     * @param array<mixed> $form
     * @param list<Problem> $problems
     * @param array<string, mixed> $csv what is previewed of a CSV file
     */
    private function page(Desk $desk, BankRow $bank, array $form, array $problems = [], array $csv = []): Response
    {
        $statements = $this->query->statements($bank->id);

        return $this->render(
            'banking/statement/new.html.twig',
            [
                'bank' => $bank,
                'banks' => $this->query->accounts($desk->id()),
                'statements' => $statements,
                'last' => $statements[0] ?? null,
                'form' => $form,
                'problems' => $problems,
                'errors' => self::byField($problems),
                'asked' => self::byField(
                    array_values(
                        array_filter($problems, static fn (Problem $p): bool => ProblemKind::Asks === $p->kind),
                    ),
                ),
                'lines' => self::formLines($form, StatementByHand::EMPTY, 8),
                'stand_in' => $this->standIns->here,
                'formats' => StatementStandIn::FORMATS,
                'csv' => $csv,
            ],
            new Response(null, [] === $problems ? 200 : 422),
        );
    }

    #[Route('/file', name: 'statement_file', methods: ['POST'])]
    #[Needs(Permission::PlaceBankLines)]
    public function upload(Desk $desk, int $bank, Request $request): Response
    {
        $account = $this->account($desk, $bank);
        $raw = $request->request->all();
        try {
            $file = max(0, self::int($request->request, 'file_id'));
            $upload = $request->files->get('file');
            if (0 === $file) {
                if (!($upload instanceof UploadedFile) || !$upload->isValid()) {
                    throw Refused::because(
                        'file',
                        $upload instanceof UploadedFile
                            ? 'The file did not arrive whole; it may be too big. Choose it again.'
                            : 'Choose the file of the bank.',
                        ProblemKind::Missing,
                    );
                }
                $file = $this->takeFile->keep($desk->actor, $upload->getClientOriginalName(), $upload->getContent());
                $raw['file_id'] = (string) $file;
            }
            $content =
                $this->takeFile->kept($desk->actor, $file)['content'] ??
                throw Refused::because('file', 'The file is gone; choose it again.', ProblemKind::Missing);
        } catch (Refused $e) {
            return $this->page($desk, $account, $raw, $e->problems);
        }
        $format = StatementFiles::formatOf($content) ?? 'csv';
        if ('csv' === $format) {
            return $this->columns($desk, $account, $raw, $content, []);
        }

        return $this->takeIn($desk, $account, $raw, $file, $format, null, null, null);
    }

    /**
     * The first lines of a CSV file under what each column is thought to be.
     *
     * @param array<mixed> $raw
     * @param list<Problem> $problems
     */
    private function columns(Desk $desk, BankRow $bank, array $raw, string $content, array $problems): Response
    {
        try {
            $rows = CsvMapping::firstRows($content);
            if (\count($rows) < 2) {
                throw Refused::because(
                    'file',
                    'The file is no statement that is known here, and no CSV with lines below its headings.',
                );
            }
            $mapping = \is_array($raw['columns'] ?? null)
                ? $raw
                : ($this->mappings->of($desk->id(), $bank->id) ?? CsvMapping::guess($rows))->raw();
            // a mapping that was kept for other headings is guessed anew
            if (!\is_array($raw['columns'] ?? null) && [] === array_intersect($mapping['columns'], $rows[0])) {
                $mapping = CsvMapping::guess($rows)->raw();
            }
        } catch (Refused $e) {
            return $this->page($desk, $bank, [...$raw, 'file_id' => ''], [...$problems, ...$e->problems]);
        }

        return $this->page($desk, $bank, $raw, $problems, [
            'rows' => $rows,
            'mapping' => $mapping,
            'fields' => CsvMapping::FIELDS,
            'days' => CsvMapping::DAYS,
        ]);
    }

    #[Route('/csv', name: 'statement_csv', methods: ['POST'])]
    #[Needs(Permission::PlaceBankLines)]
    public function csv(Desk $desk, int $bank, Request $request): Response
    {
        $account = $this->account($desk, $bank);
        $raw = $request->request->all();
        $file = max(0, self::int($request->request, 'file_id'));
        $content = $this->takeFile->kept($desk->actor, $file)['content'] ?? '';
        try {
            $mapping = CsvMapping::of($raw);
            [$opening, $closing] = [self::amount($raw, 'opening', $account), self::amount($raw, 'closing', $account)];
            $this->mappings->keep($desk->actor, $account->id, $mapping);
        } catch (Refused $e) {
            return $this->columns($desk, $account, $raw, $content, $e->problems);
        }

        return $this->takeIn($desk, $account, $raw, $file, 'csv', $mapping, $opening, $closing);
    }

    /** @param array<mixed> $raw */
    private function takeIn(
        Desk $desk,
        BankRow $bank,
        array $raw,
        int $file,
        string $format,
        ?CsvMapping $mapping,
        ?int $opening,
        ?int $closing,
    ): Response {
        try {
            $taken = $this->takeFile->take(
                $desk->actor,
                $bank->id,
                $file,
                $format,
                $mapping,
                $opening,
                $closing,
                self::overlap($raw),
                '' !== ($raw['gap_meant'] ?? ''),
            );
        } catch (Refused $e) {
            return 'csv' === $format
                ? $this->columns(
                    $desk,
                    $bank,
                    $raw,
                    $this->takeFile->kept($desk->actor, $file)['content'] ?? '',
                    $e->problems,
                )
                : $this->page($desk, $bank, $raw, $e->problems);
        }

        return $this->taken($desk, $bank, $taken);
    }

    /** @param array<mixed> $raw */
    private static function amount(array $raw, string $field, BankRow $bank): ?int
    {
        $typed = \is_string($raw[$field] ?? null) ? trim($raw[$field]) : '';

        return '' === $typed ? null : AmountInput::read($typed, Currency::of($bank->currency), $field)->minor;
    }

    /** @param array<mixed> $raw */
    private static function overlap(array $raw): Overlap
    {
        return Overlap::tryFrom(\is_string($raw['overlap'] ?? null) ? $raw['overlap'] : '') ?? Overlap::Ask;
    }

    #[Route('/typed', name: 'statement_typed', methods: ['POST'])]
    #[Needs(Permission::PlaceBankLines)]
    public function typed(Desk $desk, int $bank, Request $request, StatementByHand $byHand): Response
    {
        $account = $this->account($desk, $bank);
        $raw = $request->request->all();
        try {
            $statement = $byHand->read($desk, $account, self::formLines($raw, StatementByHand::EMPTY, 0), $raw);
            $taken = $this->takeStatement->take(
                $desk->actor,
                $account->id,
                $statement,
                'hand',
                hash('sha256', serialize($statement)),
                self::overlap($raw),
                '' !== ($raw['gap_meant'] ?? ''),
            );
        } catch (Refused $e) {
            return $this->page($desk, $account, [...$raw, 'typed' => '1'], $e->problems);
        }

        return $this->taken($desk, $account, [$taken]);
    }

    /** @param non-empty-list<Statement> $taken */
    private function taken(Desk $desk, BankRow $bank, array $taken): Response
    {
        $last = $taken[\count($taken) - 1];
        $this->say(
            \sprintf(
                '%s taken in, through %s. Nothing is posted yet.',
                Words::count(\count($taken), 'statement').(1 === \count($taken) ? ' is' : ' are'),
                $last->toDay->long(),
            ),
        );

        return $this->redirectToRoute(
            'statement',
            ['company' => $desk->company->code, 'bank' => $bank->id, 'id' => $last->id()],
            303,
        );
    }

    /** The bank's stand-in says what it booked since the last statement. */
    #[Route('/fetch', name: 'statement_fetch', methods: ['POST'])]
    #[Needs(Permission::PlaceBankLines)]
    public function fetch(
        Desk $desk,
        int $bank,
        Request $request,
        StatementStandIn $standIn,
        BooksDay $booksDay,
    ): Response {
        $account = $this->account($desk, $bank);
        if (!$this->standIns->here) {
            throw $this->createNotFoundException('No bank is connected here; take its file in.');
        }
        try {
            $format = (string) $request->request->get('format', 'camt053');
            $to = $booksDay->asked($desk->id(), $request->request, 'to', $desk->today);
            if ($to->isAfter($desk->today)) {
                throw Refused::because(
                    'to',
                    'The bank knows nothing of days to come; choose one up to the books’ day.',
                );
            }
            $bytes = StatementStandIn::writer($format)->write(
                $standIn->make($account, $to, '' !== (string) $request->request->get('odd', '')),
            );
            if ('' !== (string) $request->request->get('download', '')) {
                return new Response($bytes, 200, [
                    'Content-Type' => 'application/octet-stream',
                    'Content-Disposition' => \sprintf(
                        'attachment; filename="statement-%s.%s"',
                        $to->iso(),
                        'camt053' === $format ? 'xml' : 'txt',
                    ),
                ]);
            }
            $file = $this->takeFile->keep($desk->actor, \sprintf('statement-%s', $to->iso()), $bytes);
        } catch (Refused $e) {
            return $this->page($desk, $account, [], $e->problems);
        }

        return 'csv' === $format
            ? $this->columns($desk, $account, ['file_id' => (string) $file], $bytes, [])
            : $this->takeIn($desk, $account, ['file_id' => (string) $file], $file, $format, null, null, null);
    }

    /** The file that a statement came in. */
    #[Route('/{id<\d+>}/file', name: 'statement_original', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function original(Desk $desk, int $bank, int $id, FileStore $files): Response
    {
        $statement = $this->query->statement($this->account($desk, $bank)->id, max(1, $id));
        $file =
            null === $statement || null === $statement['file_id']
                ? null
                : $files->read($desk->id(), TakeFile::SUBJECT, (int) $statement['file_id']);
        if (null === $file) {
            throw $this->createNotFoundException('This statement came in no file.');
        }

        return new Response($file['content'], 200, [
            'Content-Type' => 'application/octet-stream',
            'Content-Disposition' => 'attachment; filename="'.FileStore::downloadName($file['name'], $file['media_type']).'"',
        ]);
    }

    private function account(Desk $desk, int $bank): BankRow
    {
        return $this->banks->find($desk->id(), $bank) ??
            throw $this->createNotFoundException('There is no such bank account in this company.');
    }
}
