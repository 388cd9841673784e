<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Psr\Clock\ClockInterface;

/** Writes down who did what; read by every page that shows a history. */
final readonly class History
{
    public function __construct(private ClockInterface $clock, private Bulk $bulk)
    {
    }

    public function note(Actor $actor, string $subject, int $id, string $action, string $detail = ''): void
    {
        $this->noteAll($actor, $subject, [$id => $detail], $action);
    }

    /**
     * The same action on many.
     *
     * @param array<int, string> $details by id
     */
    public function noteAll(Actor $actor, string $subject, array $details, string $action): void
    {
        $now = $this->clock->now();
        $this->bulk->insert(
            array_map(
                static fn (int $id, string $detail): HistoryEntry => new HistoryEntry(
                    $actor->companyId,
                    $subject,
                    $id,
                    $action,
                    mb_substr($detail, 0, 1000),
                    $actor->userId,
                    $now,
                ),
                array_keys($details),
                array_values($details),
            ),
        );
    }

    /**
     * Notes what changed, from what to what; nothing when nothing did.
     *
     * @param array<string, string> $before empty for a new record
     * @param array<string, string> $after
     */
    public function change(Actor $actor, string $subject, int $id, array $before, array $after): void
    {
        if ([] === $before) {
            $this->note($actor, $subject, $id, 'added');

            return;
        }
        $said = self::fromTo(array_intersect_key($before, $after), $after);
        if ('' !== $said) {
            $this->note($actor, $subject, $id, 'changed', $said);
        }
    }

    /**
     * What is not the same any more, from what to what, in words.
     *
     * @param array<string, string> $before
     * @param array<string, string> $after
     */
    public static function fromTo(array $before, array $after): string
    {
        $said = [];
        foreach ($after + array_fill_keys(array_keys($before), '') as $field => $value) {
            $old = $before[$field] ?? '';
            if ($old !== $value) {
                $said[] = self::said(str_replace('_', ' ', (string) $field), $old, $value);
            }
        }

        return implode('; ', $said);
    }

    /** In words: “due date from 3 May 2026 to 8 May 2026”, “text now B-17”, “text B-17 taken away”. */
    private static function said(string $field, string $old, string $new): string
    {
        return match ('') {
            $old => \sprintf('%s now %s', $field, $new),
            $new => \sprintf('%s %s taken away', $field, $old),
            default => \sprintf('%s from %s to %s', $field, $old, $new),
        };
    }
}
