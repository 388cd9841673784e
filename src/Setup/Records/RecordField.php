<?php

declare(strict_types=1);

namespace Nelbix\App\Setup\Records;

/** One field of a setup record: it stands in the form, in the list when shown, and in the CSV under its name. */
final readonly class RecordField
{
    /**
     * @param array<string, string> $choices value => words; makes it a choice
     * @param string $pick what a picker offers, such as account
     * @param bool $fixed set once, when the record is added
     */
    public function __construct(
        public string $name,
        public string $label,
        public string $width = 'w-name',
        public bool $shown = true,
        public array $choices = [],
        public string $pick = '',
        public bool $fixed = false,
        public string $note = '',
    ) {
    }
}
