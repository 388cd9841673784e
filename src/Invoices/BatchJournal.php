<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Document;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;

/** The journal of an open batch as posting it now would write it: entry by entry, and summed by account. Reads, locks nothing. */
final readonly class BatchJournal
{
    public function __construct(
        private EntityManagerInterface $entities,
        private BatchDrafts $read,
        private CheckInvoice $check,
        private Chart $chart,
    ) {
    }

    /**
     * @return array{entries: list<array{draft: int, label: string, day: string, lines: list<array{account: string, name: string,
     *     base: int, amount: int, text: string}>, currency: string}>, accounts: list<array{account: string, name: string, debit: int,
     *     credit: int}>, refused: list<array{draft: int, label: string, why: string}>}
     */
    public function of(Actor $actor, Side $side, int $batchId): array
    {
        $chart = $this->chart->accounts($actor->companyId);
        $along = new PostedAlong();
        $entries = $accounts = $refused = [];
        foreach ($this->read->toPost($actor, $side, $this->drafts($actor, $batchId)) as $one) {
            $id = (int) $one->draftId;
            $label = '' === $one->input->number ? 'draft '.$id : $one->input->number;
            try {
                $plan = $this->check->plan($actor, $one, $along);
            } catch (Refused $e) {
                $why = implode(' ', array_map(static fn (Problem $p): string => $p->message, $e->problems));
                $refused[] = ['draft' => $id, 'label' => $label, 'why' => $why];
                continue;
            }
            $lines = array_map(
                static fn (DraftLine $l): array => [
                    'account' => (string) $chart[$l->account]['number'],
                    'name' => (string) $chart[$l->account]['name'],
                    'base' => $l->base,
                    'amount' => $l->amount,
                    'text' => $l->text,
                ],
                $plan->entry->lines,
            );
            $entries[] = [
                'draft' => $id,
                'label' => $label,
                'day' => $plan->postingDate->iso(),
                'lines' => $lines,
                'currency' => $plan->entry->currency,
            ];
            foreach ($lines as $l) {
                $accounts[$l['account']] ??= [
                    'account' => $l['account'],
                    'name' => $l['name'],
                    'debit' => 0,
                    'credit' => 0,
                ];
                $accounts[$l['account']][$l['base'] > 0 ? 'debit' : 'credit'] += abs($l['base']);
            }
        }
        ksort($accounts, \SORT_STRING);

        return ['entries' => $entries, 'accounts' => array_values($accounts), 'refused' => $refused];
    }

    /** @return list<Document> */
    private function drafts(Actor $actor, int $batchId): array
    {
        /** @var list<Document> */
        return $this->entities
            ->createQuery(
                'SELECT d FROM '.
                    Document::class.
                    " d WHERE d.batchId = :batch AND d.companyId = :company AND d.state = 'draft' ORDER BY d.id",
            )
            ->setParameters(['batch' => $batchId, 'company' => $actor->companyId])
            ->getResult();
    }
}
