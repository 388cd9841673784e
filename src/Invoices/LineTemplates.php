<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\RecordCheck;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Money\Shares;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/** Splits of an amount over accounts and analysis codes, kept under a name: the lines of an invoice and their shares. */
final readonly class LineTemplates
{
    public function __construct(private Transaction $transaction, private Connection $db, private History $history)
    {
    }

    /** @return list<array{id: int, name: string, words: string}> in use, with what each does */
    public function of(int $companyId, Side $side): array
    {
        return array_map(static function (array $r): array {
            $shares = self::shares((string) $r['shares']);
            $sum = max(1, array_sum(array_column($shares, 'weight')));

            return [
                'id' => (int) $r['id'],
                'name' => (string) $r['name'],
                'words' => implode(
                    ', ',
                    array_map(
                        static fn (array $s): string => \sprintf(
                            '%s %% %s',
                            rtrim(rtrim(Money::decimalOf(intdiv($s['weight'] * 10_000, $sum)), '0'), '.'),
                            $s['account'],
                        ),
                        $shares,
                    ),
                ),
            ];
        }, $this->db->fetchAllAssociative(
            'SELECT id, name, shares FROM line_template WHERE company_id = ? AND side = ? AND retired = 0 ORDER BY name',
            [$companyId, $side->value],
        ));
    }

    /**
     * The lines of a total after a template; the parts add up to it to the cent.
     *
     * @return list<array<string, string>> as the form has them
     *
     * @throws Refused when there is no such template
     */
    public function fill(int $companyId, Side $side, int $id, Money $total): array
    {
        $row = $this->db->fetchOne(
            'SELECT shares FROM line_template WHERE id = ? AND company_id = ? AND side = ? AND retired = 0',
            [$id, $companyId, $side->value],
        );
        if (!\is_string($row)) {
            throw Refused::because(
                'template',
                'There is no such template; choose one from the list.',
                ProblemKind::Unknown,
            );
        }
        $shares = self::shares($row);
        $parts = Shares::split($total->minor, array_column($shares, 'weight'));

        return array_map(
            static fn (array $s, int $part): array => [
                ...array_map('strval', array_diff_key($s, ['weight' => 1])),
                'amount' => Money::of($part, $total->currency->code)->decimal(),
            ],
            $shares,
            $parts,
        );
    }

    /**
     * A total shared out over lines by what stands on each, be it percents or amounts; the parts add up to it to the cent.
     *
     * @param array<mixed> $raw lines[k][amount]
     *
     * @return array<int, string> amounts by line, of the lines that have a share
     *
     * @throws Refused when no line has one, or one cannot be read
     */
    public static function shareOut(array $raw, Money $total): array
    {
        $weights = [];
        foreach (
            \is_array($raw['lines'] ?? null) ? \array_slice($raw['lines'], 0, InvoiceReader::MAX_LINES, true) : [] as $k => $line
        ) {
            $typed = rtrim((new Fields(\is_array($line) ? $line : []))->text('amount'), " %\u{a0}");
            if ('' === $typed) {
                continue;
            }
            $weights[(int) $k] =
                1 === preg_match('/\A\d{1,12}(\.\d{1,4})?\z/', $typed)
                    ? (int) (string) BigDecimal::of($typed)->multipliedBy(10_000)
                    : throw Refused::because(
                        'lines',
                        \sprintf(
                            '“%s” is no share; write a percent such as 60, or an amount.',
                            mb_strimwidth($typed, 0, 20, '…'),
                        ),
                    );
        }
        if ([] === array_filter($weights)) {
            throw Refused::because(
                'lines',
                'No line says its share; write a percent such as 60 into the amount of each.',
            );
        }

        return array_map(
            static fn (int $part): string => Money::of($part, $total->currency->code)->decimal(),
            Shares::split($total->minor, $weights),
        );
    }

    /**
     * Keeps the lines of a form as a template; one of the same name is replaced.
     *
     * @throws Refused when it has no name or fewer than two lines with an amount above zero
     */
    public function keep(Actor $actor, InvoiceInput $input, string $name, Side $side): void
    {
        $problems = new ProblemList();
        $problems->attempt(static fn () => RecordCheck::name(trim($name), 60));
        $lines = array_values(array_filter($input->lines, static fn (LineInput $l): bool => $l->amount > 0));
        if (\count($lines) < 2 || \count($lines) !== \count($input->lines)) {
            $problems->add('lines', 'A split has at least two lines, each with an account and an amount above zero.');
        }
        $problems->refuse();
        $this->transaction->run(function () use ($actor, $lines, $name, $side): void {
            $code = fn (string $table, string $column, ?int $id): string => null === $id
                ? ''
                : (string) $this->db->fetchOne("SELECT $column FROM $table WHERE id = ?", [$id]);
            $shares = array_map(
                static fn (LineInput $l): array => [
                    'weight' => $l->amount,
                    'account' => $code('account', 'number', $l->accountId),
                    'tax_code' => $code('tax_code', 'code', $l->taxCodeId),
                    'text' => $l->text,
                    'cost_center' => $code('analysis_code', 'code', $l->costCenterId),
                    'department' => $code('analysis_code', 'code', $l->departmentId),
                    'project' => $code('analysis_code', 'code', $l->projectId),
                ],
                $lines,
            );
            $this->db->executeStatement(
                <<<'SQL'
                INSERT INTO line_template (company_id, side, name, shares)
                VALUES (?, ?, ?, ?)
                ON DUPLICATE KEY UPDATE shares =
                VALUES(shares), retired = 0
                SQL
                ,
                [$actor->companyId, $side->value, trim($name), json_encode($shares, \JSON_THROW_ON_ERROR)],
            );
            $this->history->note($actor, 'company', $actor->companyId, 'split kept', trim($name));
        });
    }

    public function retire(Actor $actor, Side $side, int $id): void
    {
        $this->transaction->run(function () use ($actor, $side, $id): void {
            if (
                0 ===
                (int) $this->db->executeStatement(
                    'UPDATE line_template SET retired = 1 WHERE id = ? AND company_id = ? AND side = ? AND retired = 0',
                    [$id, $actor->companyId, $side->value],
                )
            ) {
                throw Refused::because('template', 'There is no such template.', ProblemKind::Unknown);
            }
            $this->history->note($actor, 'company', $actor->companyId, 'split retired', (string) $id);
        });
    }

    /**
     * @return non-empty-list<array{weight: int, account: string, tax_code: string, text: string, cost_center: string,
     *     department: string, project: string}>
     */
    private static function shares(string $json): array
    {
        /**
         * @var non-empty-list<array{weight: int, account: string, tax_code: string, text: string, cost_center: string,
         *     department: string, project: string}>
         */
        return json_decode($json, true, 8, \JSON_THROW_ON_ERROR);
    }
}
