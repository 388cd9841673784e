<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Document;
use Nelbix\App\Books\DocumentState;
use Nelbix\App\Books\OpenItemRecord;
use Nelbix\App\Invoices\BeyondInvoices;
use Nelbix\App\Ledger\Account;
use Nelbix\App\Parties\Party;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\DocumentKind;

/** What may become of a document's open items, and the claim that it made, for its page. */
final readonly class DocumentItems implements BeyondInvoices
{
    public function __construct(private EntityManagerInterface $entities, private ClaimQuery $claims)
    {
    }

    public function actions(Actor $actor, Document $document): array
    {
        if (DocumentState::Posted !== $document->state || null !== $document->reversesId) {
            return [];
        }
        $actions = [];
        $claim = $this->claim($document);
        foreach ($this->items($document) as ['item' => $item, 'role' => $role, 'nobody' => $nobodys]) {
            if ('awaiting' === ($claim['state'] ?? '')) {
                continue; // somebody decides on it
            }
            foreach (ItemAction::of($item, $nobodys) as $action) {
                $actions[] = [
                    'item' => $item->id(),
                    'number' => $item->number,
                    'action' => $action->value,
                    'words' => $action->words($role === $item->side->prepaymentRole()),
                ];
            }
        }

        return $actions;
    }

    /** @return list<array{item: OpenItemRecord, role: AccountRole|null, nobody: bool}> with the role of its account, read at once */
    private function items(Document $document): array
    {
        /** @var list<array{item: OpenItemRecord, role: AccountRole|null, nobody: bool}> */
        return $this->entities
            ->createQuery(
                'SELECT i AS item, a.role, p.nobody FROM '.
                    OpenItemRecord::class.
                    ' i JOIN '.
                    Account::class.
                    ' a WITH a.id = i.accountId JOIN '.
                    Party::class.
                    ' p WITH p.id = i.partyId WHERE i.document = :document ORDER BY i.part',
            )
            ->setParameter('document', $document)
            ->getResult();
    }

    public function claim(Document $document): ?array
    {
        return DocumentKind::Claim === $document->kind ? $this->claims->ofDocument($document->id()) : null;
    }
}
