<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FileStore;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Formats\Statement\BankStatement;
use Nelbix\Core\Formats\Statement\CsvMapping;
use Nelbix\Core\Formats\Statement\CsvStatementReader;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Takes the statements of a file in, all of them or none, and keeps the file beside them. */
final readonly class TakeFile
{
    public const SUBJECT = 'statement';

    public function __construct(
        private Transaction $transaction,
        private TakeStatement $takeStatement,
        private BankAccounts $banks,
        private FileStore $files,
    ) {
    }

    /**
     * The file is kept as it came, as far as it is text; what a person is asked is asked of the same bytes again.
     *
     * @return int its id
     *
     * @throws Refused when it is no text or too big
     */
    public function keep(Actor $actor, string $name, string $bytes): int
    {
        return $this->files->keep($actor, self::SUBJECT, null, $name, self::text($bytes), [
            'text/csv',
            'application/xml',
            'text/plain',
        ]);
    }

    /** @return array{name: string, content: string}|null a file that this person kept and nobody took in yet */
    public function kept(Actor $actor, int $file): ?array
    {
        $row = $this->files->read($actor->companyId, self::SUBJECT, $file);

        return null === $row || $row['created_by'] !== $actor->userId
            ? null
            : ['name' => $row['name'], 'content' => $row['content']];
    }

    /**
     * @return non-empty-list<Statement>
     *
     * @throws Refused naming line and field, or what is asked
     */
    public function take(
        Actor $actor,
        int $bankId,
        int $file,
        string $format,
        ?CsvMapping $mapping,
        ?int $opening,
        ?int $closing,
        Overlap $overlap,
        bool $gapMeant,
    ): array {
        $kept =
            $this->kept($actor, $file) ??
            throw Refused::because('file', 'The file is gone; choose it again.', ProblemKind::Missing);
        $bank =
            $this->banks->find($actor->companyId, $bankId) ??
            throw Refused::because('bank', 'There is no such bank account; choose one.', ProblemKind::Unknown);
        $statements = self::read($kept['content'], $format, $bank, $mapping, $opening, $closing);
        $digest = hash('sha256', $kept['content']);

        return $this->transaction->run(function () use (
            $actor,
            $bank,
            $statements,
            $format,
            $digest,
            $file,
            $overlap,
            $gapMeant,
        ): array {
            $taken = [];
            foreach ($statements as $statement) {
                $taken[] = $record = $this->takeStatement->take(
                    $actor,
                    $bank->id,
                    $statement,
                    $format,
                    $digest,
                    $overlap,
                    $gapMeant,
                    $file,
                );
                $this->files->give($actor, self::SUBJECT, $file, $record->id());
            }

            return $taken;
        });
    }

    /**
     * @return non-empty-list<BankStatement>
     *
     * @throws Refused naming line and field
     */
    public static function read(
        string $bytes,
        string $format,
        BankRow $bank,
        ?CsvMapping $mapping = null,
        ?int $opening = null,
        ?int $closing = null,
    ): array {
        if ('csv' !== $format) {
            return StatementFiles::read($bytes, $format);
        }
        if (null === $mapping) {
            throw Refused::because(
                'columns.day',
                'Say which columns of the file are what; that is kept for the next one.',
            );
        }
        try {
            return (new CsvStatementReader($mapping, $bank->currency, $opening, $closing))->read($bytes);
        } catch (Refused $e) {
            throw Refused::all(
                array_map(
                    static fn (Problem $p): Problem => null === $p->line
                        ? $p
                        : new Problem($p->field, \sprintf('Line %d: %s', $p->line, $p->message), $p->line, $p->kind),
                    $e->problems,
                ),
            );
        }
    }

    private static function text(string $bytes): string
    {
        return mb_check_encoding($bytes, 'UTF-8')
            ? $bytes
            : (string) mb_convert_encoding($bytes, 'UTF-8', 'Windows-1252');
    }
}
