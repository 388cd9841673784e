<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\App\Close\Journal\JournalReader;
use Nelbix\App\Close\Journal\PostManualEntry;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\RecordCheck;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\ProblemList;

/** Journal entries from files, in base currency; rows with the same key are one entry. A bypass entry must say so. */
final readonly class JournalImporter implements CsvImporter
{
    public function __construct(private JournalReader $reader, private PostManualEntry $post)
    {
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

    public function take(Actor $actor, string $kind, array $rows, bool $approved): array
    {
        $problems = new ProblemList();
        $first = $rows[0];
        SameOnAll::check($rows, ['date', 'text', 'bypass'], 'entry', $problems);
        $day = $problems->attempt(static fn (): Day => Day::of($first['date']), 'lines.0.');
        $input = $problems->attempt(
            fn () => $this->reader->read($actor, [
                'day' => null === $day ? '' : $day->iso(),
                'text' => $first['text'],
                'bypass' => RecordCheck::yes($first['bypass']) ? 'yes' : '',
                'bypass_why' => $first['text'],
                'lines' => $rows,
            ]),
        );
        $problems->refuse();
        \assert(null !== $input);
        $posted = $this->post->post(
            $actor,
            $input,
            lookAlikeReason: mb_substr($first['look_alike_reason'], 0, 255),
            approved: $approved,
        );

        return [$posted->id];
    }
}
