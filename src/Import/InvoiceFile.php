<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\App\Invoices\CheckInvoice;
use Nelbix\App\Invoices\InvoicePlan;
use Nelbix\App\Invoices\InvoiceToPost;
use Nelbix\App\Invoices\PostedAlong;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\App\Platform\Actor;
use Symfony\Component\DependencyInjection\Attribute\Exclude;

/** A file of invoices: each is planned as the screen would, the numbers and look-alikes of the others in the file in mind. */
#[Exclude]
final class InvoiceFile implements PlannedFile
{
    private readonly PostedAlong $along;

    /** @var list<InvoiceToPost> */
    private array $toPost = [];

    /** @var list<InvoicePlan> */
    private array $plans = [];

    /** @param \Closure(non-empty-list<array<string, string>>, string): InvoiceToPost $read rows and the prefix of their problems */
    public function __construct(
        private readonly Actor $actor,
        private readonly \Closure $read,
        private readonly CheckInvoice $check,
        private readonly PostInvoice $postInvoice,
    ) {
        $this->along = new PostedAlong();
    }

    public function plan(array $rows): void
    {
        $one = ($this->read)($rows, '');
        $this->plans[] = $this->check->plan($this->actor, $one, $this->along);
        $this->toPost[] = new InvoiceToPost($one->input, null, \sprintf('record.%d.', \count($this->toPost)));
    }

    public function whole(): void
    {
    }

    public function write(): array
    {
        return [] === $this->toPost ? [] : $this->postInvoice->postPlanned($this->actor, $this->toPost, $this->plans);
    }
}
