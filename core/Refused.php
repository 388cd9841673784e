<?php

declare(strict_types=1);

namespace Nelbix\Core;

/** Thrown when an input cannot be accepted. Carries every problem found, never only the first that a reader could see. */
final class Refused extends \DomainException
{
    /** @param non-empty-list<Problem> $problems */
    private function __construct(public readonly array $problems)
    {
        parent::__construct(implode(' ', array_map(static fn (Problem $p): string => $p->message, $problems)));
    }

    public static function because(string $field, string $message, ProblemKind $kind = ProblemKind::Wrong): self
    {
        return new self([new Problem($field, $message, null, $kind)]);
    }

    /** @param non-empty-list<Problem> $problems */
    public static function all(array $problems): self
    {
        return new self($problems);
    }
}
