<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Document;
use Nelbix\App\Books\DocumentState;
use Nelbix\App\Books\OpenItemRecord;
use Nelbix\App\Invoices\BeyondInvoices;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Parties\Party;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Ledger\DocumentKind;

/** What may become of a document's open items, and the claim that it made, for its page. */
final readonly class DocumentItems implements BeyondInvoices
{
    public function __construct(
        private EntityManagerInterface $entities,
        private Chart $chart,
        private ClaimQuery $claims,
    ) {
    }

    public function actions(Actor $actor, Document $document): array
    {
        if (DocumentState::Posted !== $document->state || null !== $document->reversesId) {
            return [];
        }
        $actions = [];
        $claim = $this->claim($document);
        /** @var list<OpenItemRecord> $items */
        $items = $this->entities
            ->getRepository(OpenItemRecord::class)
            ->findBy(['document' => $document], ['part' => 'ASC']);
        foreach ($items as $item) {
            $role = $this->chart->account($actor->companyId, $item->accountId)['role'];
            $nobodys = true === $this->entities->find(Party::class, $item->partyId)?->nobody;
            if ('awaiting' === ($claim['state'] ?? '')) {
                continue; // somebody decides on it
            }
            foreach (ItemAction::of($item, $nobodys) as $action) {
                $actions[] = [
                    'item' => $item->id(),
                    'number' => $item->number,
                    'action' => $action->value,
                    'words' => $action->words($role === $item->side->prepaymentRole()->value),
                ];
            }
        }

        return $actions;
    }

    public function claim(Document $document): ?array
    {
        return DocumentKind::Claim === $document->kind ? $this->claims->ofDocument($document->id()) : null;
    }
}
