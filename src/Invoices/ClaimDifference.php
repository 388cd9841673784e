<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Document;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DeliveryEntry;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Rounding;
use Nelbix\Core\Refused;

/**
 * Claims of a vendor what its invoice says more than was agreed: a debit note of ours, of the same tax, which lowers what is owed until the
 * vendor's credit note takes its place.
 */
final readonly class ClaimDifference
{
    public function __construct(
        private Connection $db,
        private EntityManagerInterface $entities,
        private PostInvoice $post,
        private BooksDay $booksDay,
    ) {
    }

    /** @throws Refused when the lines say no more than was agreed */
    public function make(Actor $actor, Document $document, string $reason): Document
    {
        $lines = [];
        foreach ($this->more($document->id()) as $r) {
            $lines[] = new LineInput(
                (int) $r['account'],
                (int) $r['more'],
                null === $r['tax_code_id'] ? null : (int) $r['tax_code_id'],
                (string) $r['text'],
                null === $r['cost_center_id'] ? null : (int) $r['cost_center_id'],
                null === $r['department_id'] ? null : (int) $r['department_id'],
                null === $r['project_id'] ? null : (int) $r['project_id'],
            );
        }
        if ([] === $lines) {
            throw Refused::because(
                '',
                'Its lines say no more than was agreed; there is nothing to ask a credit for. Accept or refuse it.',
            );
        }
        $day = Day::latest(
            $this->booksDay->of($actor->companyId),
            $document->postingDate ?? $this->booksDay->of($actor->companyId),
        );
        $input = new InvoiceInput(
            Side::Payables,
            DocumentKind::DebitNote,
            (int) $document->partyId,
            mb_substr('Claim '.$document->theirNumber, 0, 60),
            $day,
            $day,
            null,
            null,
            null,
            $document->currency,
            BigDecimal::of($document->rate)->isEqualTo(1) ? null : BigDecimal::of($document->rate),
            mb_substr(trim($reason), 0, 255),
            $lines,
            [],
            null,
            [],
        );

        return $this->entities->find(Document::class, $this->post->post($actor, $input)) ?? throw new \LogicException();
    }

    /**
     * What each line says more than was agreed of the goods that did not go back, in minor units, on the account that took it:
     * variance for what it says more than was accrued, the line's own for what was accrued above the order's price.
     *
     * @return list<array<string, mixed>>
     */
    private function more(int $documentId): array
    {
        $more = [];
        foreach (
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT x.*, COALESCE((
                    SELECT SUM(c.quantity)
                    FROM goods_claim c
                    WHERE c.invoice_id = :document AND c.line_position = x.line_position AND c.undone_on IS NULL
                ), 0) AS gone
                FROM (
                    SELECT m.variance_account_id, n.account_id, n.net, m.amount, m.quantity, COALESCE(p.price, l.price) AS agreed,
                        d.currency, n.tax_code_id, n.text, n.cost_center_id, n.department_id, n.project_id, m.line_position
                    FROM goods_move m
                    JOIN document d ON d.id = m.document_id
                    JOIN document_line n ON n.document_id = m.document_id AND n.position = m.line_position
                    JOIN delivery_line l ON l.id = m.delivery_line_id
                    LEFT JOIN purchase_order_line p ON p.id = l.order_line_id
                    WHERE m.document_id = :document AND m.undone_on IS NULL AND m.slip_id IS NULL
                    UNION ALL
                    SELECT w.variance_account_id, n.account_id, n.net, 0, w.quantity, p.price, d.currency, n.tax_code_id, n.text,
                        n.cost_center_id, n.department_id, n.project_id, w.line_position
                    FROM goods_awaited w
                    JOIN document d ON d.id = w.document_id
                    JOIN document_line n ON n.document_id = w.document_id AND n.position = w.line_position
                    JOIN purchase_order_line p ON p.id = w.order_line_id
                    WHERE w.document_id = :document AND w.undone_on IS NULL
                ) x
                ORDER BY x.line_position
                SQL
                ,
                ['document' => $documentId],
            ) as $r
        ) {
            $quantity = BigDecimal::of((string) $r['quantity']);
            $here = $quantity->minus((string) $r['gone']);
            $share = static fn (mixed $of): int => Rounding::toInt(
                $here->multipliedBy((int) $of)->toBigRational()->dividedBy($quantity),
            );
            $agreed = DeliveryEntry::value(
                $here,
                BigDecimal::of((string) $r['agreed']),
                Currency::of((string) $r['currency']),
            );
            [$accrued, $net] = [max($agreed, $share($r['amount'])), $share($r['net'])];
            array_push(
                $more,
                [...$r, 'account' => $r['account_id'], 'more' => min($accrued, $net) - $agreed],
                [...$r, 'account' => $r['variance_account_id'], 'more' => $net - $accrued],
            );
        }

        return array_values(array_filter($more, static fn (array $r): bool => $r['more'] > 0));
    }
}
