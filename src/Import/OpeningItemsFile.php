<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Symfony\Component\DependencyInjection\Attribute\Exclude;

/** Open items from elsewhere, each planned as the invoice it is. */
#[Exclude]
final readonly class OpeningItemsFile implements PlannedFile
{
    /** @param \Closure(array<string, string>): array<string, string> $invoice */
    public function __construct(private PlannedFile $invoices, private \Closure $invoice)
    {
    }

    public function plan(array $rows): void
    {
        $this->invoices->plan([($this->invoice)($rows[0])]);
    }

    public function whole(): void
    {
        $this->invoices->whole();
    }

    public function write(): array
    {
        return $this->invoices->write();
    }
}
