<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

/** The strings of a form or of a row of a file, whatever was sent in their place. */
final readonly class Fields
{
    /** @param array<mixed> $raw */
    public function __construct(private array $raw)
    {
    }

    /** What stands in a field, without spaces around it; empty when nothing or no text does. */
    public function text(string $key): string
    {
        return \is_scalar($this->raw[$key] ?? null) ? trim((string) $this->raw[$key]) : '';
    }

    public function has(string $key): bool
    {
        return \array_key_exists($key, $this->raw);
    }

    public function yes(string $key): bool
    {
        return RecordCheck::yes($this->text($key));
    }
}
