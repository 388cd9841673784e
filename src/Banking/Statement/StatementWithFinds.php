<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Nelbix\App\Bank\BankRow;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\NothingKept;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;

/**
 * Takes a statement in, or only tries to, and says what was found for each of its lines. Nothing is posted.
 *
 * @phpstan-type LineWithFinds array{line: array<string, mixed>, options: list<Option>, sure: bool}
 * @phpstan-type WithFinds array{statement: array<string, mixed>, lines: list<LineWithFinds>}
 */
final readonly class StatementWithFinds
{
    public function __construct(
        private Transaction $transaction,
        private TakeStatement $takeStatement,
        private Mappings $mappings,
        private StatementQuery $query,
        private FindPlaces $findPlaces,
        private LineOptions $options,
    ) {
    }

    /**
     * @param string $format empty for what the file says itself
     *
     * @return list<WithFinds>
     *
     * @throws Refused naming line and field
     */
    public function take(Actor $actor, BankRow $bank, string $bytes, string $format, bool $tryOnly): array
    {
        $format = '' === $format ? StatementFiles::formatOf($bytes) ?? 'csv' : $format;
        $statements = TakeFile::read($bytes, $format, $bank, $this->mappings->of($actor->companyId, $bank->id));
        $result = [];
        try {
            $this->transaction->run(function () use (
                $actor,
                $bank,
                $statements,
                $format,
                $bytes,
                $tryOnly,
                &$result,
            ): void {
                $result = [];
                foreach ($statements as $statement) {
                    $taken = $this->takeStatement->take($actor, $bank->id, $statement, $format, hash('sha256', $bytes));
                    $result[] = $this->withFinds($actor, $bank, $taken->id());
                }
                if ($tryOnly) {
                    throw new NothingKept();
                }
            });
        } catch (NothingKept) {
            // it was only tried
        }

        return $result;
    }

    /** @return WithFinds */
    private function withFinds(Actor $actor, BankRow $bank, int $id): array
    {
        $rows = $this->query->lines($id, false, 0, 100_000);
        $waiting = array_map('intval', array_column($rows, 'waiting', 'id'));
        $found = array_intersect_key($this->findPlaces->of($bank, $actor->companyId), $waiting);
        $options = $this->options->of($bank, $actor->companyId, $found, $waiting);

        return [
            'statement' => $this->query->statement($bank->id, $id) ?? throw new \LogicException('It was taken in.'),
            'lines' => array_map(
                static fn (array $r): array => [
                    'line' => $r,
                    'options' => $options[(int) $r['id']] ?? [],
                    'sure' => isset($found[(int) $r['id']]) && $found[(int) $r['id']]->sure,
                ],
                $rows,
            ),
        ];
    }
}
