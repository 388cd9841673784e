<?php

declare(strict_types=1);

namespace Nelbix\Core;

/** Collects what is wrong while an input is read, so that a person or a file hears of everything at once. */
final class ProblemList
{
    /** @var list<Problem> */
    public array $all = [];

    /** @see Problem for what a field and a message are */
    public function add(string $field, string $message, ProblemKind $kind = ProblemKind::Wrong): void
    {
        $this->all[] = new Problem($field, $message, null, $kind);
    }

    /**
     * Runs a reader; what it refuses is kept and null takes its place.
     *
     * @template T
     *
     * @param callable(): T $read
     * @param string $prefix put before the fields that the problems name, such as "lines.3."
     *
     * @return T|null
     */
    public function attempt(callable $read, string $prefix = ''): mixed
    {
        try {
            return $read();
        } catch (Refused $e) {
            array_push($this->all, ...array_map(static fn (Problem $p): Problem => $p->under($prefix), $e->problems));

            return null;
        }
    }

    /** @throws Refused with everything that was found, if anything was */
    public function refuse(): void
    {
        if ([] !== $this->all) {
            throw Refused::all($this->all);
        }
    }
}
