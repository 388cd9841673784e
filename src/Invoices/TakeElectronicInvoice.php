<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Brick\Math\BigDecimal;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Parties\VendorOfPaper;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FileStore;
use Nelbix\App\Platform\PageImages;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Formats\InvoiceXmlReader;
use Nelbix\Core\Formats\Ubl\ElectronicInvoice;
use Nelbix\Core\Formats\Ubl\ElectronicLine;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Money\PricedAmount;
use Nelbix\Core\Refused;

/**
 * Reads an electronic invoice into a draft: vendor by tax number, lines with the goods that they are of,
 * tax, due date, what is attached. The clerk looks and posts.
 */
final readonly class TakeElectronicInvoice
{
    public function __construct(
        private Transaction $transaction,
        private VendorOfPaper $vendors,
        private CodeBook $codes,
        private KeepDraft $keepDraft,
        private FileStore $files,
        private PageImages $pages,
        private MatchPaper $match,
    ) {
    }

    /**
     * @return array{draft: int, said: list<string>, matched: list<string>} said: what the clerk should know
     *
     * @throws Refused when it cannot be read, its totals are wrong, or the vendor is not known
     */
    public function take(Actor $actor, string $xml, string $name): array
    {
        $invoice = InvoiceXmlReader::read($xml);
        $party = $this->vendors->find(
            $actor->companyId,
            $invoice->seller->taxNumber,
            $invoice->seller->name,
            'invoice',
        );

        return $this->transaction->run(function () use ($actor, $invoice, $party, $xml, $name): array {
            $said = $matched = [];
            $codes = $this->codes($actor, $invoice, $said);
            $line = static fn (ElectronicLine $l): array => [
                'account' => '',
                'text' => $l->text,
                'tax_code' => $codes[$l->category.$l->percent->stripTrailingZeros()] ?? '',
                'cost_center' => '',
                'department' => '',
                'project' => '',
                'kind' => ($kind = !\in_array($l, $invoice->others, true)
                    ? 'line'
                    : ($l->net < 0
                        ? 'allowance'
                        : 'charge')),
                'amount' => null !== $l->quantity
                    && null !== $l->price
                    && $l->quantity->isPositive()
                    && $l->quantity
                        ->multipliedBy($l->price)
                        ->isEqualTo(Money::of($l->net + $l->allowance, $invoice->currency)->decimal())
                        ? PricedAmount::typed(
                            (string) $l->quantity->stripTrailingZeros(),
                            (string) $l->price->stripTrailingZeros(),
                            $l->allowance,
                            $invoice->currency,
                        )
                        : Money::of('allowance' === $kind ? -$l->net : $l->net, $invoice->currency)->decimal(),
            ];
            $draft = $this->keepDraft->keep($actor, Side::Payables, [
                'kind' => $invoice->isCredit ? 'credit_note' : 'invoice',
                'party' => $party['code'],
                'number' => $invoice->number,
                'document_date' => $invoice->date->long(),
                'due_date' => $invoice->due?->long() ?? '',
                'currency' => $invoice->currency,
                'description' => $invoice->note,
                'stated_total' => Money::of($invoice->total(), $invoice->currency)->decimal(),
                'lines' => $this->match->lines(
                    $actor->companyId,
                    $party['id'],
                    $invoice,
                    array_map($line, [...$invoice->lines, ...$invoice->others]),
                    $said,
                    $matched,
                ),
                'against' => '',
                'tax' => $this->taxes($invoice, $codes),
            ]);
            $this->files->keep($actor, 'einvoice', $draft->id(), $name, $xml, ['application/xml']);
            foreach ($invoice->attachments as $attachment) {
                $paper = null;
                try {
                    $paper = $this->files->keep(
                        $actor,
                        'paper',
                        $draft->id(),
                        $attachment['name'],
                        $attachment['content'],
                        FileStore::PAPERS,
                    );
                    $this->pages->expect($actor->companyId, $paper);
                } catch (Refused $e) {
                    if (null !== $paper) {
                        $this->files->drop($actor->companyId, 'paper', $paper);
                    }
                    $said[] = \sprintf(
                        'The attachment “%s” was left out: %s',
                        mb_strimwidth($attachment['name'], 0, 60, '…'),
                        $e->getMessage(),
                    );
                }
            }
            if (0 !== $invoice->prepaid) {
                $said[] = \sprintf(
                    'The vendor counts %s %s as paid already; settle it with that payment.',
                    Money::of($invoice->prepaid, $invoice->currency)->decimal(),
                    $invoice->currency,
                );
            }

            return ['draft' => $draft->id(), 'said' => $said, 'matched' => $matched];
        });
    }

    /**
     * Our purchase codes for the rates of the file.
     *
     * @param list<string> $said
     *
     * @return array<string, string> by category and percent
     */
    private function codes(Actor $actor, ElectronicInvoice $invoice, array &$said): array
    {
        $codes = [];
        foreach ($invoice->taxes as $t) {
            if ($t['percent']->isZero() && 'AE' !== $t['category']) {
                continue;
            }
            foreach ($this->codes->taxCodes($actor->companyId) as $record) {
                if (
                    'purchase' === $record->usedBy
                    && !$record->retired
                    && !$record->inclusive
                    && ('AE' === $t['category']
                        ? null !== $record->reverseAccountId
                        : null === $record->reverseAccountId && BigDecimal::of($record->rate)->isEqualTo($t['percent']))
                ) {
                    $codes[$t['category'].$t['percent']->stripTrailingZeros()] = $record->code;
                    break;
                }
            }
            if (!isset($codes[$t['category'].$t['percent']->stripTrailingZeros()])) {
                $said[] = \sprintf(
                    'There is no purchase tax code for %s %%; add one under Setup and choose it on the lines.',
                    $t['percent']->stripTrailingZeros(),
                );
            }
        }

        return $codes;
    }

    /**
     * The tax as the file has it, where it differs from what we would compute by rounding.
     *
     * @param array<string, string> $codes
     *
     * @return array<string, string>
     */
    private function taxes(ElectronicInvoice $invoice, array $codes): array
    {
        $taxes = [];
        foreach ($invoice->taxes as $t) {
            $code = $codes[$t['category'].$t['percent']->stripTrailingZeros()] ?? null;
            if (null !== $code && 'AE' !== $t['category']) {
                $taxes[$code] = Money::of($t['tax'], $invoice->currency)->decimal();
            }
        }

        return $taxes;
    }
}
