<?php

declare(strict_types=1);

namespace Nelbix\App\Outbox;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Invoices\InvoicePrint;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\FileStore;
use Nelbix\App\Platform\Paper;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Transaction;
use Nelbix\App\Work\Job;
use Nelbix\App\Work\LongWork;
use Nelbix\App\Work\Progress;
use Nelbix\App\Work\Slice;
use Nelbix\App\Work\StartWork;
use Nelbix\Core\Refused;

/** Many picked invoices, sent or set as one PDF by the worker: a few in each slice, none left out. */
final readonly class InvoiceList implements LongWork
{
    /** More than a page can do before somebody loses patience. */
    public const AT_ONCE = 20;

    private const SLICE = 10;
    private const PRINT = 'print';

    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private FileStore $files,
        private StartWork $startWork,
        private SendInvoices $send,
        private InvoicePrint $print,
        private Paper $paper,
    ) {
    }

    /**
     * @param list<int> $ids
     * @param bool $print false sends them
     *
     * @return int the list's id
     *
     * @throws Refused when something of it can be neither printed nor sent
     */
    public function start(Actor $actor, Company $company, array $ids, bool $print): int
    {
        $ids = array_values(array_unique($ids));
        if (!$print) {
            $this->send->mustBeSendable($company, $ids);
        }

        return $this->transaction->run(function () use ($actor, $ids, $print): int {
            $list = $this->files->keep($actor, 'list', null, 'list.csv', "document\n".implode("\n", $ids), [
                'text/csv',
            ]);
            $this->startWork->start(
                $actor,
                $this,
                $list,
                $print ? 'Invoices as one PDF' : 'Invoices sent',
                \count($ids),
                $print ? self::PRINT : '',
            );

            return $list;
        });
    }

    /** The PDF that came of a list; null while there is none. */
    public function pdf(Actor $actor, int $list): ?string
    {
        $mine = $this->files->read($actor->companyId, 'list', $list);
        $made =
            null === $mine || $mine['created_by'] !== $actor->userId
                ? []
                : $this->files->of($actor->companyId, 'list pdf', $list);

        return [] === $made
            ? null
            : $this->files->read($actor->companyId, 'list pdf', $made[0]['id'])['content'] ?? null;
    }

    public function kind(): string
    {
        return 'invoices';
    }

    public function seenWith(): ?Permission
    {
        return null;
    }

    public function route(): string
    {
        return 'invoice_list';
    }

    public function onlyLooks(Job $job): bool
    {
        return false;
    }

    public function slice(Actor $actor, Job $job, Progress $progress): Slice
    {
        $file =
            $this->files->read($actor->companyId, 'list', $job->subjectId) ??
            throw Refused::because('', 'The list is gone; pick the invoices again.');
        $company = $this->entities->find(Company::class, $actor->companyId) ?? throw new \LogicException();
        $ids = array_map('intval', \array_slice(explode("\n", $file['content']), 1));
        $next = \array_slice($ids, $job->done, self::SLICE);
        $more = $job->done + \count($next) < \count($ids);
        if (self::PRINT !== $job->options) {
            $this->send->send($actor, $company, $next);

            return new Slice(\count($next), $more);
        }
        $bytes = $this->paper->bytes('invoices/invoice_pdf.html.twig', [
            'printed' => $this->print->of($company, $next),
        ]);
        $this->files->keep($actor, 'list part', $job->subjectId, 'part.pdf', $bytes, ['application/pdf']);
        if (!$more) {
            $this->unite($actor, $job->subjectId);
        }

        return new Slice(\count($next), $more);
    }

    private function unite(Actor $actor, int $list): void
    {
        $parts = [];
        foreach ($this->files->of($actor->companyId, 'list part', $list) as $part) {
            $parts[] = $this->files->read($actor->companyId, 'list part', $part['id'])['content'] ?? '';
        }
        $this->files->keep($actor, 'list pdf', $list, 'invoices.pdf', Paper::united($parts), ['application/pdf']);
        foreach ($this->files->of($actor->companyId, 'list part', $list) as $part) {
            $this->files->drop($actor->companyId, 'list part', $part['id']);
        }
    }
}
