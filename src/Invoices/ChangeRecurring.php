<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\RecordCheck;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Recurrence;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/** Changes when a recurring document comes and what it holds, from its next time on; what was prepared stays as it is. */
final readonly class ChangeRecurring
{
    /** What of a line is changed here; the rest of it stays. */
    private const OF_LINE = ['account', 'text', 'tax_code', 'amount'];

    public function __construct(
        private Transaction $transaction,
        private KeepRecurring $keepRecurring,
        private InvoiceReader $reader,
        private History $history,
    ) {
    }

    /**
     * @param array<mixed> $raw name, every, weeks, first_on (its next day), until_on, most (times from then on), ask_amount,
     *                          description, terms, lines
     * @param int $version of it on the page
     *
     * @throws Refused with every problem
     */
    public function change(Actor $actor, Side $side, int $id, array $raw, int $version): void
    {
        $this->transaction->run(function () use ($actor, $side, $id, $raw, $version): void {
            $recurring = $this->keepRecurring->locked($actor, $side, $id);
            if ($recurring->version !== $version) {
                throw Refused::because(
                    '',
                    'Somebody else changed or prepared it meanwhile; load it anew and enter your change again.',
                    ProblemKind::Taken,
                );
            }
            $text = (new Fields($raw))->text(...);
            $problems = new ProblemList();
            $problems->attempt(static fn () => RecordCheck::name($text('name'), 80));
            $days = $problems->attempt(fn (): Recurrence => $this->keepRecurring->schedule($actor, $raw));
            $ask = RecordCheck::yes($text('ask_amount'));
            $form = self::form($recurring->form, $raw);
            array_push($problems->all, ...null === $days ? [] : $this->wrong($actor, $side, $form, $days, $ask));
            $problems->refuse();
            if (null === $days) {
                throw new \LogicException();
            }
            $before = self::values($recurring);
            if (
                [$days->first, $days->every, $days->weeks] != [
                    $recurring->nextOn,
                    $recurring->every,
                    $recurring->weeks,
                ]
                || $days->until != $recurring->untilOn
                || $days->most !== $recurring->timesLeft()
            ) {
                $recurring->comes($days);
            }
            [$recurring->name, $recurring->form, $recurring->askAmount] = [$text('name'), $form, $ask];
            $this->history->change($actor, 'recurring', $id, $before, self::values($recurring));
        });
    }

    /**
     * What it holds with what was typed here in place of what was there.
     *
     * @param array<mixed> $held
     * @param array<mixed> $raw
     *
     * @return array<mixed>
     */
    public static function form(array $held, array $raw): array
    {
        $text = (new Fields($raw))->text(...);
        $lines = [];
        foreach (\is_array($raw['lines'] ?? null) ? $raw['lines'] : [] as $k => $typed) {
            $line = new Fields(\is_array($typed) ? $typed : []);
            $new = array_map($line->text(...), array_combine(self::OF_LINE, self::OF_LINE));
            if ('' !== implode('', $new)) {
                $old = \is_array($held['lines'] ?? null) ? $held['lines'][$k] ?? [] : [];
                $lines[] = $new + (\is_array($old) ? $old : []);
            }
        }

        return [...$held, 'description' => $text('description'), 'terms' => $text('terms'), 'lines' => $lines];
    }

    /**
     * @param array<mixed> $form
     *
     * @return list<Problem> of what does not wait for the document itself: its number, and amounts that are asked each time
     */
    private function wrong(Actor $actor, Side $side, array $form, Recurrence $days, bool $ask): array
    {
        $input = $this->reader->read($actor, $side, [...$form, 'document_date' => $days->first->long()]);

        return array_values(
            array_filter(
                $input->problems,
                static fn (Problem $p): bool => 'number' !== $p->field
                    && !($ask && str_ends_with($p->field, '.amount') && ProblemKind::Missing === $p->kind),
            ),
        );
    }

    /** @return array<string, string> for the history */
    private static function values(Recurring $r): array
    {
        $values = [
            'name' => $r->name,
            'comes' => 'weeks' === $r->every ? 'every '.$r->weeks.' weeks' : Recurrence::EVERY[$r->every],
            'next_day' => $r->nextOn?->long() ?? '',
            'until' => $r->untilOn?->long() ?? '',
            'times' => (string) $r->most,
            'amount' => $r->askAmount ? 'asked each time' : 'the same each time',
        ];
        foreach (['description', 'terms'] as $key) {
            $values[$key] = \is_string($r->form[$key] ?? null) ? $r->form[$key] : '';
        }
        foreach (\is_array($r->form['lines'] ?? null) ? array_values($r->form['lines']) : [] as $k => $line) {
            $of = new Fields(\is_array($line) ? $line : []);
            $values['line_'.($k + 1)] = implode(' ', array_filter(array_map($of->text(...), self::OF_LINE)));
        }

        return $values;
    }
}
