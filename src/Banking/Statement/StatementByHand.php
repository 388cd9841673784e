<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Nelbix\App\Bank\BankRow;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Statement\BankStatement;
use Nelbix\Core\Formats\Statement\StatementLine;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\ParameterBag;

/** A statement that was typed off its paper. */
final readonly class StatementByHand
{
    public const EMPTY = ['day' => '', 'text' => '', 'party' => '', 'reference' => '', 'check' => '', 'amount' => ''];

    public function __construct(private BooksDay $booksDay)
    {
    }

    /**
     * @param list<array<string, string>> $rows of EMPTY
     * @param array<mixed> $raw number, opening, closing
     *
     * @throws Refused with every problem
     */
    public function read(Desk $desk, BankRow $bank, array $rows, array $raw): BankStatement
    {
        $problems = new ProblemList();
        $amount = static function (string $typed, string $field, string $prefix = '') use ($problems, $bank): int {
            return $problems->attempt(
                static fn (): int => AmountInput::read($typed, Currency::of($bank->currency), $field)->minor,
                $prefix,
            ) ?? 0;
        };
        $text = static fn (string $key): string => \is_string($raw[$key] ?? null) ? trim($raw[$key]) : '';
        $lines = [];
        foreach ($rows as $k => $row) {
            if ('' === implode('', $row)) {
                continue;
            }
            $day = $problems->attempt(
                fn (): Day => '' === $row['day']
                    ? throw Refused::because('day', 'The day is missing.', ProblemKind::Missing)
                    : $this->booksDay->asked(
                        $desk->id(),
                        new ParameterBag(['day' => $row['day']]),
                        'day',
                        $desk->today,
                    ),
                "lines.$k.",
            );
            $minor = $amount($row['amount'], 'amount', "lines.$k.");
            if (null !== $day) {
                $lines[] = new StatementLine(
                    $day,
                    null,
                    $minor,
                    mb_substr($row['text'], 0, 500),
                    mb_substr($row['reference'], 0, 120),
                    '',
                    mb_substr($row['party'], 0, 140),
                    '',
                    ltrim($row['check'], '0'),
                );
            }
        }
        [$opening, $closing] = [$amount($text('opening'), 'opening'), $amount($text('closing'), 'closing')];
        if ([] === $lines) {
            $problems->add(
                'lines.0.day',
                'A statement has at least one line; type its day, text and amount.',
                ProblemKind::Missing,
            );
        }
        $problems->refuse();
        \assert([] !== $lines);
        $days = array_map(static fn (StatementLine $l): string => $l->day->iso(), $lines);

        return (new BankStatement(
            '' === $text('number') ? max($days) : $text('number'),
            '',
            $bank->currency,
            Day::of(min($days)),
            Day::of(max($days)),
            $opening,
            $closing,
            $lines,
        ))->check();
    }
}
