<?php

declare(strict_types=1);

namespace Nelbix\Core;

/** One thing that is wrong with an input: which field, and what would be right. */
final readonly class Problem
{
    /**
     * @param string $field name of the input field or CSV column; '' when no single field is to blame
     * @param string $message a whole sentence that says what is wrong and what would be right
     * @param int|null $line line of the file, counted from 1, when the input is a file
     */
    public function __construct(
        public string $field,
        public string $message,
        public ?int $line = null,
        public ProblemKind $kind = ProblemKind::Wrong,
    ) {
    }

    public function onLine(int $line): self
    {
        return new self($this->field, $this->message, $line, $this->kind);
    }

    /** @param string $prefix put before the field, such as "lines.3." */
    public function under(string $prefix): self
    {
        return '' === $prefix ? $this : new self($prefix.$this->field, $this->message, $this->line, $this->kind);
    }
}
