<?php

declare(strict_types=1);

namespace Nelbix\App\Work;

use Symfony\Component\DependencyInjection\Attribute\AutowireIterator;

/** The kinds of long work that there are. */
final readonly class Kinds
{
    /** @param iterable<LongWork> $kinds */
    public function __construct(#[AutowireIterator(LongWork::class)] private iterable $kinds)
    {
    }

    public function of(string $name): LongWork
    {
        foreach ($this->kinds as $kind) {
            if ($kind->kind() === $name) {
                return $kind;
            }
        }
        throw new \LogicException('No such long work: '.$name);
    }
}
