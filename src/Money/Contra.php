<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\DocumentBook;
use Nelbix\App\Books\DocumentDraft;
use Nelbix\App\Books\ItemDraft;
use Nelbix\App\Books\ItemLocks;
use Nelbix\App\Books\MayPay;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\SettlementBook;
use Nelbix\App\Books\SettlementRequest;
use Nelbix\App\Books\WrittenDocument;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\Parties\Party;
use Nelbix\App\Parties\PartyAccounts;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Ledger\TransferEntry;
use Nelbix\Core\Ledger\TransferLeg;
use Nelbix\Core\Money\Money;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Refused;

/**
 * Sets what a business owes as our customer off against what we owe it as our vendor: one document with an item on each side, one entry
 * at the rate of its date, each item settled on its own side. Source: rules.md, Contra.
 */
final readonly class Contra
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private ItemLocks $items,
        private DocumentBook $documents,
        private SettlementBook $book,
        private PartyAccounts $accounts,
        private Rates $rates,
        private MayPay $mayPay,
        private History $history,
    ) {
    }

    /**
     * @param array<int, int> $placed minor units by item, positive on what is owed and negative on credits; of both sides, one currency
     *
     * @return int the document
     *
     * @throws Refused when the two are not linked, or the sides differ
     */
    public function post(
        Actor $actor,
        Party $customer,
        array $placed,
        Day $date,
        string $text,
        ?FormKey $form = null,
    ): int {
        return $this->transaction->once($actor, 'contra', $form, function () use (
            $actor,
            $customer,
            $placed,
            $date,
            $text,
        ): int {
            $vendor = $this->vendor($customer);
            $items = array_map(
                static fn ($held): OpenItem => $held->item,
                $this->items->held($actor, array_keys($placed)),
            );
            $sides = $this->sides($items, $placed, $customer, $vendor);
            $this->mayPay->mayBeSettled(array_keys($sides[Side::Payables->value]['placed']));
            $amount = $sides[Side::Payables->value]['sum'];
            $currency = $sides[Side::Payables->value]['currency'];
            $written = $this->write($actor, $customer, $vendor, $currency, $amount, $date, $text);
            $requests = [];
            foreach ([Side::Payables, Side::Receivables] as $k => $side) {
                $placements = array_map(
                    static fn (int $id, int $applied): PlacementRequest => new PlacementRequest($id, $applied),
                    array_keys($sides[$side->value]['placed']),
                    $sides[$side->value]['placed'],
                );
                $requests[] = new SettlementRequest(
                    $side,
                    [...$placements, new PlacementRequest($written->items[$k]->id(), -$amount)],
                    [],
                    $date,
                    null,
                    $written->document,
                    null,
                    'set off',
                );
            }
            $this->book->settleAll($actor, $requests);
            $this->history->note(
                $actor,
                'document',
                $written->document->id(),
                'set off',
                \sprintf(
                    '%s %s of %s and %s',
                    Money::of($amount, $currency)->decimal(),
                    $currency,
                    $vendor->code,
                    $customer->code,
                ),
            );

            return $written->document->id();
        });
    }

    private function vendor(Party $customer): Party
    {
        $vendor =
            null === $customer->linkedPartyId || Side::Receivables !== $customer->side
                ? null
                : $this->entities->find(Party::class, $customer->linkedPartyId);

        return $vendor ??
            throw Refused::because(
                'party',
                \sprintf('%s is linked with no vendor; link the two first.', $customer->name),
            );
    }

    /**
     * @param array<int, OpenItem> $items
     * @param array<int, int> $placed
     *
     * @return array<string, array{placed: non-empty-array<int, int>, sum: int, currency: string}> by side
     */
    private function sides(array $items, array $placed, Party $customer, Party $vendor): array
    {
        $sides = [];
        foreach ($placed as $id => $amount) {
            $item = $items[$id];
            if (!\in_array($item->party, [$customer->id(), $vendor->id()], true)) {
                throw Refused::because('placed.'.$id, \sprintf('%s is neither’s of the two.', $item->number));
            }
            $sides[$item->side->value]['placed'][$id] = $amount;
            $sides[$item->side->value]['sum'] = ($sides[$item->side->value]['sum'] ?? 0) + $amount;
            $sides[$item->side->value]['currency'] = $item->currency;
        }
        $sum = static fn (Side $side): int => $sides[$side->value]['sum'] ?? 0;
        $currency = static fn (Side $side): string => $sides[$side->value]['currency'] ?? '';
        if ($sum(Side::Payables) <= 0 || $sum(Side::Payables) !== $sum(Side::Receivables)) {
            throw Refused::because(
                'placed',
                \sprintf(
                    'What is set off of the vendor is %s, of the customer %s; the two must be equal, and more than nothing.',
                    self::words($sum(Side::Payables), $currency(Side::Payables)),
                    self::words($sum(Side::Receivables), $currency(Side::Receivables)),
                ),
            );
        }
        if ($currency(Side::Payables) !== $currency(Side::Receivables)) {
            throw Refused::because(
                'placed',
                'The two sides are in different currencies; set off one currency at a time.',
            );
        }

        return $sides;
    }

    private function write(
        Actor $actor,
        Party $customer,
        Party $vendor,
        string $currency,
        int $amount,
        Day $date,
        string $text,
    ): WrittenDocument {
        $rate = $this->rates->on($actor->companyId, $currency, $actor->baseCurrency, $date);
        $base = InvoiceEntry::base($amount, $currency, $actor->baseCurrency, $rate);
        $legs = [
            new TransferLeg(
                Side::Payables,
                $this->accounts->control($actor->companyId, Side::Payables, $vendor->id()),
                $vendor->id(),
                -$amount,
                -$base,
            ),
            new TransferLeg(
                Side::Receivables,
                $this->accounts->control($actor->companyId, Side::Receivables, $customer->id()),
                $customer->id(),
                -$amount,
                -$base,
            ),
        ];
        $document = $this->documents->begin($actor, Side::Receivables, DocumentKind::Contra);
        $document->partyId = $customer->id();
        $document->documentDate = $document->postingDate = $document->dueDate = $date;
        $document->currency = $currency;
        $document->rate = (string) $rate;
        $document->net = $document->total = $amount;
        $document->totalBase = $base;
        $document->description = mb_substr(trim($text), 0, 255);

        return $this->documents->write(
            $actor,
            new DocumentDraft(
                $document,
                array_map(static fn (TransferLeg $l): ItemDraft => ItemDraft::ofLeg($l, $date), $legs),
                TransferEntry::draft($currency, $legs, $document->kind->word()),
                \sprintf('%s set off against %s', $customer->code, $vendor->code),
            ),
        );
    }

    private static function words(int $minor, string $currency): string
    {
        return '' === $currency ? '0' : Money::of($minor, $currency)->decimal().' '.$currency;
    }
}
