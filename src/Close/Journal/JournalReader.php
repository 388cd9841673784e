<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Journal;

use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Fields;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Analysis;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/** Reads an entry by hand, as it is typed or as a file has it, in the company's currency. */
final readonly class JournalReader
{
    public const FIELDS = ['day', 'text', 'bypass', 'bypass_why', 'reverses_on'];
    public const LINE = [
        'account' => '',
        'text' => '',
        'debit' => '',
        'credit' => '',
        'cost_center' => '',
        'department' => '',
        'project' => '',
    ];

    private const MOST_LINES = 500;

    public function __construct(private Chart $chart, private CodeBook $codes, private BooksDay $booksDay)
    {
    }

    /**
     * @param array<mixed> $raw FIELDS, and lines with the keys of LINE
     *
     * @throws Refused with every problem
     */
    public function read(Actor $actor, array $raw): JournalInput
    {
        $fields = new Fields($raw);
        $problems = new ProblemList();
        $dates = $this->booksDay->input($actor->companyId);
        $day = $problems->attempt(
            fn (): Day => '' === $fields->text('day')
                ? $this->booksDay->of($actor->companyId)
                : $dates->read($fields->text('day'), 'day'),
        );
        $reverses =
            '' === $fields->text('reverses_on')
                ? null
                : $problems->attempt(
                    static fn (): Day => $dates->read($fields->text('reverses_on'), 'reverses_on', $day),
                );
        if (null !== $day && null !== $reverses && !$reverses->isAfter($day)) {
            $problems->add('reverses_on', 'It is taken back on a later day than it is posted on.');
        }
        if ('' === $fields->text('text')) {
            $problems->add('text', 'Say what the entry is for; it stands on it for ever.', ProblemKind::Missing);
        }
        $bypass = $fields->yes('bypass');
        $lines = $this->lines($actor, \is_array($raw['lines'] ?? null) ? $raw['lines'] : [], $bypass, $problems);
        $sum = array_sum(array_map(static fn (DraftLine $l): int => $l->base, $lines ?? []));
        if (null === $lines) {
            // what a line lacks is said already; their sum means nothing yet
            $sum = 0;
        } elseif ([] === $lines) {
            $problems->add('lines.0.account', 'An entry needs at least two lines.', ProblemKind::Missing);
        } elseif (0 !== $sum) {
            $problems->add(
                'lines.0.debit',
                \sprintf(
                    'Debit and credit of this entry differ by %s; they must be equal.',
                    Money::of(abs($sum), $actor->baseCurrency)->decimal(),
                ),
            );
        }
        $problems->refuse();
        \assert(null !== $day);

        return new JournalInput(
            $day,
            mb_substr($fields->text('text'), 0, 255),
            JournalDraft::of($actor->baseCurrency, $lines ?? []),
            $bypass,
            $bypass ? mb_substr($fields->text('bypass_why'), 0, 255) : '',
            $reverses,
            // what was understood, not what was typed: "." is another day when somebody approves it
            [...self::kept($raw), 'day' => $day->long(), 'reverses_on' => $reverses?->long() ?? ''],
        );
    }

    /**
     * @param array<mixed> $raw
     *
     * @return array<mixed> what a form holds, and nothing else
     */
    public static function kept(array $raw): array
    {
        $text = static fn (mixed $v): string => \is_string($v) ? mb_substr($v, 0, 255) : '';
        $kept = array_map($text, array_intersect_key($raw, array_flip(self::FIELDS)));
        $kept['lines'] = [];
        foreach (\is_array($raw['lines'] ?? null) ? \array_slice($raw['lines'], 0, self::MOST_LINES) : [] as $line) {
            $cells = array_map($text, array_intersect_key(\is_array($line) ? $line : [], self::LINE));
            if ('' !== trim(implode('', $cells))) {
                $kept['lines'][] = [...self::LINE, ...$cells];
            }
        }

        return $kept;
    }

    /**
     * @param array<mixed> $raw
     *
     * @return list<DraftLine>|null null when something is wrong with one of them
     */
    private function lines(Actor $actor, array $raw, bool $bypass, ProblemList $problems): ?array
    {
        $lines = [];
        $whole = true;
        foreach (\array_slice(array_values($raw), 0, self::MOST_LINES) as $k => $cells) {
            $row = new Fields(\is_array($cells) ? $cells : []);
            $typed = array_filter(
                array_map($row->text(...), array_keys(self::LINE)),
                static fn (string $t): bool => '' !== $t,
            );
            if ([] === $typed) {
                continue;
            }
            $line = $problems->attempt(fn (): DraftLine => $this->line($actor, $row, $bypass), 'lines.'.$k.'.');
            if (null === $line) {
                $whole = false;
            } else {
                $lines[] = $line;
            }
        }

        return $whole ? $lines : null;
    }

    /** @throws Refused */
    private function line(Actor $actor, Fields $row, bool $bypass): DraftLine
    {
        $problems = new ProblemList();
        $account = $problems->attempt(
            fn (): int => $bypass
                ? $this->chart->any($actor->companyId, $row->text('account'), 'account')
                : $this->chart->postable($actor->companyId, $row->text('account'), 'account'),
        );
        $amount = static fn (string $column): ?int => '' === $row->text($column)
            ? 0
            : $problems->attempt(
                static fn (): int => AmountInput::read($row->text($column), Currency::of($actor->baseCurrency), $column)
                    ->minor,
            );
        [$debit, $credit] = [$amount('debit'), $amount('credit')];
        if (null !== $debit && null !== $credit && ($debit < 0 || $credit < 0 || (0 === $debit) === (0 === $credit))) {
            $problems->add('debit', 'A row has either a debit or a credit, above zero.');
        }
        $code = fn (string $kind): ?int => $problems->attempt(
            fn (): ?int => $this->codes->analysis($actor->companyId, $kind, $row->text($kind), $kind),
        );
        $analysis = new Analysis($code('cost_center'), $code('department'), $code('project'));
        $problems->refuse();
        $base = (int) $debit - (int) $credit;

        return new DraftLine((int) $account, $base, $base, mb_substr($row->text('text'), 0, 255), $analysis);
    }
}
