<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Document;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;

/** What does not fit of a posted invoice, and what it took of which deliveries. */
final readonly class MatchQuery
{
    public function __construct(private EntityManagerInterface $entities)
    {
    }

    /**
     * What the page of a document shows of its match; a document that takes no goods asks nothing.
     *
     * @return array{matched: list<array<string, mixed>>, findings: list<array<string, mixed>>, match_seen: string}
     */
    public function page(Document $document): array
    {
        if (
            Side::Payables !== $document->side
            || DocumentKind::Invoice !== $document->kind
            || null !== $document->reversesId
        ) {
            return ['matched' => [], 'findings' => [], 'match_seen' => ''];
        }
        $waiting = Document::MATCH === $document->heldFor ? $this->waiting($document->id()) : [];
        $matched = $this->matched($document->id());

        return [
            'matched' => $matched,
            'findings' => [] === $matched && Document::MATCH !== $document->heldFor ? [] : $this->findings($document->id()),
            'match_seen' => [] === $waiting ? '' : self::digest($waiting),
        ];
    }

    /** @return list<MatchFinding> those that nobody decided on */
    public function waiting(int $documentId): array
    {
        return array_values(
            $this->entities
                ->getRepository(MatchFinding::class)
                ->findBy(['documentId' => $documentId, 'decided' => null], ['id' => 'ASC']),
        );
    }

    /** @param list<MatchFinding> $findings what tells a page that is old from one that is not */
    public static function digest(array $findings): string
    {
        return hash(
            'sha256',
            implode(' ', array_map(static fn (MatchFinding $f): string => $f->id().$f->said, $findings)),
        );
    }

    /** @return list<array<string, mixed>> all of them, with what was decided and by whom */
    public function findings(int $documentId): array
    {
        return $this->entities->getConnection()->fetchAllAssociative(
            <<<'SQL'
            SELECT f.said, f.reason, f.decided, f.decided_at, u.name AS decided_by, o.name AS ordered_by
            FROM match_finding f
            LEFT JOIN app_user u ON u.id = f.decided_by_id
            LEFT JOIN app_user o ON o.id = f.ordered_by_id
            WHERE f.document_id = ?
            ORDER BY f.id
            SQL
            ,
            [$documentId],
        );
    }

    /**
     * @return list<array<string, mixed>> a row for each line that took goods, and for each that waits for some: delivery, order, quantity,
     *                                    what was accrued and invoiced
     */
    public function matched(int $documentId): array
    {
        return $this->entities->getConnection()->fetchAllAssociative(
            <<<'SQL'
            SELECT m.line_position, m.kind, m.quantity, m.amount, m.undone_on, COALESCE(v.amount, n.net) AS net, n.text, l.unit, l.price,
                g.id AS delivery_id, g.number AS delivery, g.note_number, g.delivered_on, o.id AS order_id, o.number AS order_number,
                p.price AS agreed, m.slip_id, '' AS reason
            FROM goods_move m
            JOIN document_line n ON n.document_id = m.document_id AND n.position = m.line_position
            JOIN delivery_line l ON l.id = m.delivery_line_id
            JOIN delivery g ON g.id = l.delivery_id
            LEFT JOIN purchase_order_line p ON p.id = l.order_line_id
            LEFT JOIN purchase_order o ON o.id = p.order_id
            LEFT JOIN goods_awaited w ON w.document_id = m.document_id AND w.line_position = m.line_position
            LEFT JOIN goods_arrival v ON v.awaited_id = w.id AND v.slip_id = m.slip_id AND v.delivery_line_id = l.id
            WHERE m.document_id = :document
            UNION ALL
            SELECT w.line_position, 'awaited', IF(w.undone_on IS NULL, w.open_quantity, w.quantity), NULL, w.undone_on,
                IF(w.undone_on IS NULL, w.open_amount, w.amount), n.text, p.unit, p.price, NULL, NULL, NULL, NULL, o.id, o.number,
                p.price, NULL, ''
            FROM goods_awaited w
            JOIN document_line n ON n.document_id = w.document_id AND n.position = w.line_position
            JOIN purchase_order_line p ON p.id = w.order_line_id
            JOIN purchase_order o ON o.id = p.order_id
            WHERE w.document_id = :document AND (w.open_quantity > 0 OR w.undone_on IS NOT NULL)
            UNION ALL
            SELECT w.line_position, 'never came', v.quantity, NULL, v.undone_on, v.amount, n.text, p.unit, p.price, NULL, NULL, NULL, NULL,
                o.id, o.number, p.price, v.slip_id, s.reason
            FROM goods_awaited w
            JOIN goods_arrival v ON v.awaited_id = w.id AND v.delivery_line_id IS NULL
            JOIN goods_slip s ON s.id = v.slip_id
            JOIN document_line n ON n.document_id = w.document_id AND n.position = w.line_position
            JOIN purchase_order_line p ON p.id = w.order_line_id
            JOIN purchase_order o ON o.id = p.order_id
            WHERE w.document_id = :document
            ORDER BY line_position, delivery_id IS NULL, delivery_id
            SQL
            ,
            ['document' => $documentId],
        );
    }

    /** Whether a person received some of what the document invoices. */
    public function received(int $documentId, int $userId): bool
    {
        return false !==
            $this->entities->getConnection()->fetchOne(
                <<<'SQL'
                SELECT 1
                FROM goods_move m
                JOIN delivery_line l ON l.id = m.delivery_line_id
                JOIN delivery g ON g.id = l.delivery_id
                WHERE m.document_id = ? AND g.created_by_id = ?
                LIMIT 1
                SQL
                ,
                [$documentId, $userId],
            );
    }

    /**
     * How many invoices of :company wait for a decision on their match, and what they come to.
     *
     * @param bool $own only those that :user ordered
     *
     * @return string SQL of a row: matches, count, base minor units
     */
    public static function waits(bool $own): string
    {
        $ordered = $own ? ' AND f.ordered_by_id = :user' : '';

        return <<<SQL
        SELECT 'matches', COUNT(*), COALESCE(SUM(d.total_base), 0)
        FROM document d
        WHERE d.id IN (SELECT f.document_id FROM match_finding f WHERE f.company_id = :company AND f.decided IS NULL$ordered)
            AND d.held_for = 'match' AND d.state = 'posted'
        SQL;
    }
}
