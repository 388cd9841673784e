<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Nelbix\Core\Calendar\Day;
use Symfony\Component\DependencyInjection\Attribute\Exclude;

/**
 * What else is posted with an invoice and is not in the books yet: the others of a file or a batch.
 *
 * @phpstan-type AlongRow array{party: int, number: string, total: int, date: Day}
 */
#[Exclude]
final class PostedAlong
{
    /** @var array<string, true> numbers that must be unique */
    private array $numbers = [];

    /** @var array<int, list<array{party: int, number: string, key: string, total: int, date: Day}>> by party */
    private array $documents = [];

    /** @var array<int, int> what they make customers owe more, base minor units, by party */
    private array $owed = [];

    /** @var array<string, true> */
    private array $looked = [];

    /** @param array<string, true>|null $inBooks the numbers of theirs that the books hold (TakenNumbers); null when nobody looked yet */
    public function __construct(public readonly ?array $inBooks = null)
    {
    }

    /**
     * Takes a look that is the same for all of them once; one that refuses is taken again.
     *
     * @param \Closure(): void $look
     */
    public function once(string $key, \Closure $look): void
    {
        if (!isset($this->looked[$key])) {
            $look();
            $this->looked[$key] = true;
        }
    }

    /** Whether a number is taken by one of them; from now on it is. */
    public function takes(string $number): bool
    {
        $taken = isset($this->numbers[$number]);
        $this->numbers[$number] = true;

        return $taken;
    }

    /** @param AlongRow $document */
    public function add(array $document): void
    {
        $this->documents[$document['party']][] = [...$document, 'key' => LookAlikes::key($document['number'])];
    }

    public function owes(int $party, int $base): void
    {
        $this->owed[$party] = $this->owed($party) + $base;
    }

    /** What the others make a customer owe more, base minor units. */
    public function owed(int $party): int
    {
        return $this->owed[$party] ?? 0;
    }

    /**
     * One that may be the same, by the rules of LookAlikes.
     *
     * @param AlongRow $document
     * @param int $days within which the same amount is alike
     *
     * @return array{number: string, why: string}|null
     */
    public function like(array $document, int $days): ?array
    {
        $key = LookAlikes::key($document['number']);
        foreach ($this->documents[$document['party']] ?? [] as $d) {
            if ('' !== $key && $d['key'] === $key) {
                return ['number' => $d['number'], 'why' => 'number alike'];
            }
            $near = abs($d['date']->daysUntil($document['date'])) <= $days;
            if ($near && 0 !== $document['total'] && $d['total'] === $document['total']) {
                return ['number' => $d['number'], 'why' => \sprintf('same amount within %d days', $days)];
            }
        }

        return null;
    }
}
