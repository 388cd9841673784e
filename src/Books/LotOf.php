<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

/** What the records of a lot are. */
enum LotOf: string
{
    case Documents = 'documents';
    case Settlements = 'settlements';
    case Entries = 'entries';
    case Deliveries = 'deliveries';

    /** One of them, in a word. */
    public function word(): string
    {
        return match ($this) {
            self::Documents => 'document',
            self::Settlements => 'settlement',
            self::Entries => 'entry',
            self::Deliveries => 'delivery',
        };
    }
}
