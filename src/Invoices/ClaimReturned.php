<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Document;
use Nelbix\App\Goods\ClaimsReturned;
use Nelbix\App\Goods\InvoicedPart;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DeliveryEntry;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Rounding;
use Nelbix\Core\Refused;

/**
 * A debit note of ours for invoiced goods that went back: at the invoice's price and tax, out of the accounts that its entry and the
 * delivery's put them into.
 */
final readonly class ClaimReturned implements ClaimsReturned
{
    public function __construct(
        private Connection $db,
        private EntityManagerInterface $entities,
        private PostInvoice $post,
    ) {
    }

    public function claim(Actor $actor, array $parts, Day $day, string $reason): int
    {
        $invoice =
            $this->entities->find(Document::class, $parts[0]->invoice) ??
            throw new \LogicException('The invoice is gone.');
        $lines = [];
        foreach ($parts as $part) {
            array_push($lines, ...$this->lines($part));
        }
        if ([] === $lines) {
            throw Refused::because(
                'lines',
                'They were invoiced at nothing; there is nothing to claim. Send back only what is not invoiced.',
            );
        }
        $before = (int) $this->db->fetchOne(
            'SELECT COUNT(DISTINCT document_id) FROM goods_claim WHERE invoice_id = ?',
            [$invoice->id()],
        );

        return $this->post->post(
            $actor,
            new InvoiceInput(
                Side::Payables,
                DocumentKind::DebitNote,
                (int) $invoice->partyId,
                mb_substr(\sprintf('Return %d of %s', $before + 1, $invoice->theirNumber), 0, 60),
                $day,
                $day,
                null,
                null,
                null,
                $invoice->currency,
                BigDecimal::of($invoice->rate)->isEqualTo(1) ? null : BigDecimal::of($invoice->rate),
                mb_substr($reason, 0, 255),
                $lines,
                [],
                null,
                [],
            ),
        );
    }

    /** @return list<LineInput> what was accrued, and what was invoiced more or less */
    private function lines(InvoicedPart $part): array
    {
        $lines = [];
        foreach (
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT m.quantity, m.amount, m.variance_account_id, COALESCE(v.amount, n.net) AS net, n.tax_code_id, n.text, l.account_id,
                    l.cost_center_id, l.department_id, l.project_id, COALESCE(p.price, l.price) AS agreed, d.currency,
                    EXISTS (SELECT 1 FROM match_finding f WHERE f.document_id = m.document_id AND f.decided = 'claimed') AS claimed
                FROM goods_move m
                JOIN document_line n ON n.document_id = m.document_id AND n.position = m.line_position
                JOIN document d ON d.id = m.document_id
                JOIN delivery_line l ON l.id = m.delivery_line_id
                LEFT JOIN purchase_order_line p ON p.id = l.order_line_id
                LEFT JOIN goods_awaited w ON w.document_id = m.document_id AND w.line_position = m.line_position
                LEFT JOIN goods_arrival v ON v.awaited_id = w.id AND v.slip_id = m.slip_id AND v.delivery_line_id = l.id
                WHERE m.document_id = ? AND m.line_position = ? AND m.delivery_line_id = ? AND m.undone_on IS NULL
                    AND m.kind IN ('invoiced', 'arrived')
                LIMIT 1
                SQL
                ,
                [$part->invoice, $part->position, $part->deliveryLine],
            ) as $r
        ) {
            $share = static fn (mixed $of): int => Rounding::toInt(
                $part->quantity->multipliedBy((int) $of)->toBigRational()->dividedBy((string) $r['quantity']),
            );
            $int = static fn (string $key): ?int => null === $r[$key] ? null : (int) $r[$key];
            [$accrued, $net] = [$share($r['amount']), $share($r['net'])];
            if ((bool) $r['claimed']) {
                // what it says more than was agreed is claimed already
                $agreed = DeliveryEntry::value(
                    $part->quantity,
                    BigDecimal::of((string) $r['agreed']),
                    Currency::of((string) $r['currency']),
                );
                [$accrued, $net] = [min($accrued, $agreed), min($net, $agreed)];
            }
            foreach (
                [[$int('account_id'), $accrued], [$int('variance_account_id'), $net - $accrued]] as [$account, $amount]
            ) {
                if (0 !== $amount) {
                    $lines[] = new LineInput(
                        (int) $account,
                        $amount,
                        $int('tax_code_id'),
                        (string) $r['text'],
                        $int('cost_center_id'),
                        $int('department_id'),
                        $int('project_id'),
                    );
                }
            }
        }

        return $lines;
    }
}
