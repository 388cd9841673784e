<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\PostJournalEntry;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\RecordCheck;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Analysis;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\UnbalancedEntry;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemList;

/** Journal entries from files, in base currency; rows with the same key are one entry. A bypass entry must say so. */
final readonly class JournalImporter implements CsvImporter
{
    public function __construct(
        private Chart $chart,
        private CodeBook $codes,
        private PostJournalEntry $postJournalEntry,
    ) {
    }

    public function kinds(): array
    {
        return ['journal'];
    }

    public function required(string $kind): array
    {
        return ['entry', 'date', 'text', 'account', 'debit', 'credit'];
    }

    public function optional(string $kind): array
    {
        return ['cost_center', 'bypass', 'look_alike_reason'];
    }

    public function key(string $kind): array
    {
        return ['entry'];
    }

    public function together(string $kind): array
    {
        return ['entry'];
    }

    public function take(Actor $actor, string $kind, array $rows, bool $approved): void
    {
        $problems = new ProblemList();
        $first = $rows[0];
        $bypass = RecordCheck::yes($first['bypass']);
        $day = $problems->attempt(static fn (): Day => Day::of($first['date']), 'lines.0.');
        $lines = [];
        SameOnAll::check($rows, ['date', 'text', 'bypass'], 'entry', $problems);
        foreach ($rows as $k => $row) {
            $at = 'lines.'.$k.'.';
            $account = $problems->attempt(
                fn (): int => $bypass
                    ? $this->chart->any($actor->companyId, $row['account'], 'account')
                    : $this->chart->postable($actor->companyId, $row['account'], 'account'),
                $at,
            );
            $center = $problems->attempt(
                fn (): ?int => $this->codes->analysis(
                    $actor->companyId,
                    'cost_center',
                    $row['cost_center'],
                    'cost_center',
                ),
                $at,
            );
            $amount = static fn (string $column): ?int => '' === $row[$column]
                ? 0
                : $problems->attempt(
                    static fn (): int => Money::parse($row[$column], $actor->baseCurrency, $column)->minor,
                    $at,
                );
            $debit = $amount('debit');
            $credit = $amount('credit');
            if (
                null !== $debit
                && null !== $credit
                && ($debit < 0 || $credit < 0 || (0 === $debit) === (0 === $credit))
            ) {
                $problems->add($at.'debit', 'A row has either a debit or a credit, above zero.');
            }
            if (null !== $account && null !== $debit && null !== $credit) {
                $lines[] = new DraftLine(
                    $account,
                    $debit - $credit,
                    $debit - $credit,
                    $row['text'],
                    new Analysis($center),
                );
            }
        }
        $problems->refuse();
        try {
            $draft = JournalDraft::of($actor->baseCurrency, $lines);
        } catch (UnbalancedEntry) {
            $sum = array_sum(array_map(static fn (DraftLine $l): int => $l->base, $lines));
            $problems->add(
                'lines.0.debit',
                \sprintf(
                    'Debit and credit of this entry differ by %s; they must be equal.',
                    Money::of(abs($sum), $actor->baseCurrency)->decimal(),
                ),
            );
            $problems->refuse();

            return;
        }
        $this->postJournalEntry->post(
            $actor,
            $draft,
            $day ?? throw new \LogicException(),
            $first['text'],
            $bypass,
            mb_substr($first['look_alike_reason'], 0, 255),
        );
    }
}
