<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Doctrine\DBAL\Connection;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\EntryOrder;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Bulk;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/**
 * Posts what a pair differs by in the company that adjusts: for items a note of the party, which is settled with them
 * later; for postings of an account an entry. It belongs to the pair, and is reversed with it.
 */
final readonly class PostDifference
{
    public function __construct(
        private Transaction $transaction,
        private Connection $db,
        private PairingLock $lock,
        private InvoiceReader $reader,
        private PostInvoice $postInvoice,
        private LedgerWriter $ledger,
        private Chart $chart,
        private Rates $rates,
        private Bulk $bulk,
        private History $history,
    ) {
    }

    /**
     * @param Actor $actor in the company that adjusts
     * @param string $account number of the account that takes the difference
     *
     * @throws Refused
     */
    public function post(Actor $actor, int $setId, int $pairId, string $account, Day $day): void
    {
        $this->transaction->run(function () use ($actor, $setId, $pairId, $account, $day): void {
            $set = $this->lock->set($actor, $setId);
            $pair = $this->lock->pair($set, $pairId);
            $source = $set->source($set->adjusts);
            if ($source->companyId !== $actor->companyId) {
                throw Refused::because('', 'The other company adjusts in this set; post the difference there.');
            }
            if (0 === $pair->difference || PairState::Asked === $pair->state) {
                throw Refused::because('', 'Only a pair that stands and differs has something to post.');
            }
            if (null !== $pair->documentId || null !== $pair->entryId) {
                throw Refused::because('', 'Its difference was posted already; somebody was faster.');
            }
            $number = $this->chart->ofLine($actor->companyId, $account, 'account');
            if ('account' === $source->kind) {
                // a bank account is moved by its statement, a control account by its items: neither from here
                $own = (string) $this->chart->account($actor->companyId, $source->id)['number'];
                $this->chart->ofLine($actor->companyId, $own, 'account');
            }
            // what the adjusting side must grow by, in its own sign
            $grows = ('left' === $set->adjusts ? $pair->difference : -$pair->difference) * $set->signOf($set->adjusts);
            match ($source->kind) {
                'items', 'documents' => $this->note($actor, $set, $pair, $source, $account, $day, $grows),
                'account' => $this->entry($actor, $set, $pair, $source, $number, $day, $grows),
                default => throw Refused::because(
                    '',
                    'Nothing can be posted for rows of a bank or of a file; let the other side adjust, or export the journal file.',
                ),
            };
            $this->history->note(
                $actor,
                'pairing_set',
                $setId,
                'difference posted',
                Money::of($grows, $set->currency)->decimal(),
            );
        });
    }

    private function note(
        Actor $actor,
        PairingSet $set,
        PairRecord $pair,
        Source $source,
        string $account,
        Day $day,
        int $grows,
    ): void {
        $party = $this->partyOf($set, $pair, $source);
        $text = \sprintf('Difference to %s', $this->otherNumber($set, $pair));
        $side = $source->side ?? throw Refused::because('', 'The side of the items is not known.');
        // a note that moves what is owed in this direction: a debit note to a vendor lowers it, to a customer it raises it
        $kinds = array_filter(
            [DocumentKind::DebitNote, DocumentKind::CreditNote, DocumentKind::Invoice],
            static fn (DocumentKind $k): bool => $k->itemSign($side) === ($grows <=> 0),
        );
        $raw = [
            'kind' => (array_values($kinds)[0] ?? throw new \LogicException('A note moves what is owed.'))->value,
            'party' => $party,
            'number' => \sprintf('PD-%d', $pair->id()),
            'document_date' => $day->iso(),
            'posting_date' => $day->iso(),
            'currency' => $set->currency,
            'description' => $text,
            'lines' => [
                [
                    'account' => $account,
                    'text' => $text,
                    'amount' => Money::of(abs($grows), $set->currency)->decimal(),
                    'tax_code' => '',
                ],
            ],
        ];
        $document = $this->postInvoice->post($actor, $this->reader->read($actor, $side, $raw));
        $item =
            $this->db->fetchAssociative(
                'SELECT id, number, original, original_base, document_date FROM open_item WHERE document_id = ? ORDER BY part LIMIT 1',
                [$document],
            ) ?:
            throw new \LogicException('A note has an item.');
        $row = new PairingRowRecord(
            $set->id(),
            $set->adjusts,
            'items' === $source->kind ? 'item '.$item['id'] : 'document '.$document,
            (string) $item['number'],
            (int) $item['original'],
            (int) $item['original_base'],
            Day::of((string) $item['document_date']),
            ['number' => (string) $item['number'], 'text' => $text],
            $document,
        );
        $row->pairId = $pair->id();
        $this->bulk->insert([$row]);
        $pair->documentId = $document;
    }

    private function entry(
        Actor $actor,
        PairingSet $set,
        PairRecord $pair,
        Source $source,
        int $account,
        Day $day,
        int $grows,
    ): void {
        $rate = $this->rates->on($actor->companyId, $set->currency, $actor->baseCurrency, $day, 'account');
        $base = ($grows <=> 0) * InvoiceEntry::base(abs($grows), $set->currency, $actor->baseCurrency, $rate);
        $text = \sprintf('Difference to %s', $this->otherNumber($set, $pair));
        $pair->entryId = $this->ledger
            ->write(
                $actor,
                new EntryOrder(
                    JournalDraft::of($set->currency, [
                        new DraftLine($source->id, $base, $grows, $text),
                        new DraftLine($account, -$base, -$grows, $text),
                    ]),
                    $day,
                    $text,
                    [],
                ),
            )
            ->id();
        $line =
            $this->db->fetchAssociative(
                'SELECT l.id, e.number, l.amount, l.base, l.posting_date FROM journal_line l JOIN journal_entry e ON e.id = l.entry_id '.
                    'WHERE l.entry_id = ? AND l.account_id = ?',
                [$pair->entryId, $source->id],
            ) ?:
            throw new \LogicException('The entry has a line on the account.');
        $row = new PairingRowRecord(
            $set->id(),
            $set->adjusts,
            'line '.$line['id'],
            (string) ($line['number'] ?? 'difference'),
            (int) $line['amount'],
            (int) $line['base'],
            $day,
            ['text' => $text],
        );
        $row->pairId = $pair->id();
        $this->bulk->insert([$row]);
    }

    /** @return string the code of the party whose items the pair holds */
    private function partyOf(PairingSet $set, PairRecord $pair, Source $source): string
    {
        $codes = $this->db->fetchFirstColumn(
            <<<'SQL'
            SELECT DISTINCT p.code
            FROM pairing_row r
            JOIN document d ON d.id = r.document_id
            JOIN party p ON p.id = d.party_id
            WHERE r.pair_id = ? AND r.side = ? AND d.company_id = ?
            SQL
            ,
            [$pair->id(), $set->adjusts, $source->companyId],
        );

        return 1 === \count($codes)
            ? (string) $codes[0]
            : throw Refused::because(
                '',
                'The rows belong to several parties; post the difference by hand.',
                ProblemKind::Wrong,
            );
    }

    private function otherNumber(PairingSet $set, PairRecord $pair): string
    {
        return (string) $this->db->fetchOne('SELECT MIN(number) FROM pairing_row WHERE pair_id = ? AND side <> ?', [
            $pair->id(),
            $set->adjusts,
        ]);
    }
}
