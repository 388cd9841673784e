<?php

declare(strict_types=1);

namespace Nelbix\App\Close;

/** Whether orders, deliveries and what became of them agree with each other. Source: rules.md, Matching. */
final class VerifyGoods
{
    /** @return list<string> SQL of one column, a sentence for each finding; :company is its place for the company */
    public static function queries(): array
    {
        return [
            <<<'SQL'
            SELECT CONCAT(g.number, ', line ', l.position, ': ', l.open_quantity, ' / ', l.open_amount, ' / ', l.open_base,
                ' are kept as left, ', IF(g.reversed_on IS NULL, l.quantity, 0) - COALESCE(m.quantity, 0), ' / ',
                IF(g.reversed_on IS NULL, l.amount, 0) - COALESCE(m.amount, 0), ' / ',
                IF(g.reversed_on IS NULL, l.amount_base, 0) - COALESCE(m.base, 0), ' are')
            FROM delivery g
            JOIN delivery_line l ON l.delivery_id = g.id
            LEFT JOIN (
                SELECT m.delivery_line_id, SUM(m.quantity) AS quantity, SUM(m.amount) AS amount, SUM(m.amount_base) AS base
                FROM goods_move m
                WHERE m.undone_on IS NULL
                GROUP BY m.delivery_line_id
            ) m ON m.delivery_line_id = l.id
            WHERE g.company_id = :company AND (
                l.open_quantity <> IF(g.reversed_on IS NULL, l.quantity, 0) - COALESCE(m.quantity, 0)
                OR l.open_amount <> IF(g.reversed_on IS NULL, l.amount, 0) - COALESCE(m.amount, 0)
                OR l.open_base <> IF(g.reversed_on IS NULL, l.amount_base, 0) - COALESCE(m.base, 0)
                OR l.open_quantity < 0 OR l.open_amount < 0 OR l.open_base < 0 OR (l.open_quantity = 0 AND l.open_base <> 0)
            )
            SQL,
            <<<'SQL'
            SELECT CONCAT(g.number, ' is kept as ', g.open_base, ' not invoiced, its lines say ', SUM(l.open_base))
            FROM delivery g
            JOIN delivery_line l ON l.delivery_id = g.id
            WHERE g.company_id = :company
            GROUP BY g.id, g.number, g.open_base, g.is_open
            HAVING g.open_base <> SUM(l.open_base) OR g.is_open <> MAX(l.open_quantity > 0)
            SQL,
            <<<'SQL'
            SELECT CONCAT(g.number, ': its lines add up to ', SUM(l.amount), ' / ', SUM(l.amount_base), ', it says ', g.amount, ' / ',
                g.amount_base)
            FROM delivery g
            JOIN delivery_line l ON l.delivery_id = g.id
            WHERE g.company_id = :company
            GROUP BY g.id, g.number, g.amount, g.amount_base
            HAVING g.amount <> SUM(l.amount) OR g.amount_base <> SUM(l.amount_base)
            SQL,
            <<<'SQL'
            SELECT CONCAT(o.number, ', line ', n.position, ': ', n.received, ' received and ', n.invoiced, ' invoiced are kept, ',
                COALESCE(r.quantity, 0), ' and ', COALESCE(i.quantity, 0), ' were')
            FROM purchase_order o
            JOIN purchase_order_line n ON n.order_id = o.id
            LEFT JOIN (
                SELECT l.order_line_id, SUM(l.quantity) - COALESCE(SUM(b.quantity), 0) - COALESCE(SUM(c.quantity), 0) AS quantity
                FROM delivery g
                JOIN delivery_line l ON l.delivery_id = g.id
                LEFT JOIN (
                    SELECT m.delivery_line_id, SUM(m.quantity) AS quantity
                    FROM goods_move m
                    WHERE m.kind = 'returned' AND m.undone_on IS NULL
                    GROUP BY m.delivery_line_id
                ) b ON b.delivery_line_id = l.id
                LEFT JOIN (
                    SELECT c.delivery_line_id, SUM(c.quantity) AS quantity
                    FROM goods_claim c
                    WHERE c.undone_on IS NULL
                    GROUP BY c.delivery_line_id
                ) c ON c.delivery_line_id = l.id
                WHERE g.company_id = :company AND g.reversed_on IS NULL AND l.order_line_id IS NOT NULL
                GROUP BY l.order_line_id
            ) r ON r.order_line_id = n.id
            LEFT JOIN (
                SELECT order_line_id, SUM(quantity) AS quantity
                FROM (
                    SELECT l.order_line_id, m.quantity
                    FROM goods_move m
                    JOIN delivery_line l ON l.id = m.delivery_line_id
                    WHERE m.kind = 'invoiced' AND m.undone_on IS NULL AND l.order_line_id IS NOT NULL
                    UNION ALL
                    SELECT w.order_line_id, w.quantity
                    FROM goods_awaited w
                    WHERE w.company_id = :company AND w.undone_on IS NULL
                    UNION ALL
                    SELECT l.order_line_id, -c.quantity
                    FROM goods_claim c
                    JOIN delivery_line l ON l.id = c.delivery_line_id
                    WHERE c.undone_on IS NULL AND l.order_line_id IS NOT NULL
                    UNION ALL
                    SELECT w.order_line_id, -v.quantity
                    FROM goods_awaited w
                    JOIN goods_arrival v ON v.awaited_id = w.id AND v.delivery_line_id IS NULL AND v.undone_on IS NULL
                    WHERE w.company_id = :company AND w.undone_on IS NULL
                ) x
                GROUP BY order_line_id
            ) i ON i.order_line_id = n.id
            WHERE o.company_id = :company AND (n.received <> COALESCE(r.quantity, 0) OR n.invoiced <> COALESCE(i.quantity, 0)
                OR n.received < 0 OR n.invoiced < 0)
            SQL,
            <<<'SQL'
            SELECT CONCAT(d.number, ', line ', n.position, ' invoices ', m.quantity, ' of ', g.number, ' and says ', n.quantity)
            FROM goods_move m
            JOIN document d ON d.id = m.document_id
            JOIN document_line n ON n.document_id = m.document_id AND n.position = m.line_position
            JOIN delivery_line l ON l.id = m.delivery_line_id
            JOIN delivery g ON g.id = l.delivery_id
            WHERE d.company_id = :company AND m.slip_id IS NULL AND (NOT n.quantity <=> m.quantity OR d.party_id <> g.party_id
                OR d.currency <> g.currency
                OR m.moved_on < g.delivered_on OR m.moved_on <> d.posting_date OR m.account_id <> g.account_id)
            SQL,
            <<<'SQL'
            SELECT CONCAT(d.number, ' is ', d.state, ', what it took of the deliveries is ', IF(m.undone_on IS NULL, 'not ', ''),
                'given back')
            FROM goods_move m
            JOIN document d ON d.id = m.document_id
            WHERE d.company_id = :company AND m.slip_id IS NULL AND (d.state = 'reversed') <> (m.undone_on IS NOT NULL)
            SQL,
            <<<'SQL'
            SELECT CONCAT('the entry of ', s.number, ' is missing, or is not ', s.amount_base)
            FROM goods_slip s
            LEFT JOIN (
                SELECT e.source_id, SUM(IF(a.role = 'received_not_invoiced', l.base, 0)) AS received,
                    SUM(IF(a.role = 'received_not_invoiced', 0, -l.base)) AS invoiced
                FROM journal_entry e
                JOIN journal_line l ON l.entry_id = e.id AND l.party_id IS NOT NULL
                JOIN account a ON a.id = l.account_id
                WHERE e.company_id = :company AND e.source_kind = 'goods_slip' AND e.reverses_id IS NULL
                GROUP BY e.source_id
            ) e ON e.source_id = s.id
            LEFT JOIN (
                SELECT v.slip_id, SUM(v.amount_base) AS base
                FROM goods_arrival v
                GROUP BY v.slip_id
            ) v ON v.slip_id = s.id
            WHERE s.company_id = :company AND (COALESCE(IF(s.kind = 'never came', e.invoiced, e.received), 0) <> s.amount_base
                OR COALESCE(e.invoiced, 0) <> COALESCE(v.base, 0))
            SQL,
            <<<'SQL'
            SELECT CONCAT(d.number, ', line ', w.line_position, ': ', w.open_quantity, ' / ', w.open_amount, ' / ', w.open_base,
                ' are kept as awaited, ', IF(w.undone_on IS NULL, w.quantity - COALESCE(v.quantity, 0), 0), ' / ',
                IF(w.undone_on IS NULL, w.amount - COALESCE(v.amount, 0), 0), ' / ',
                IF(w.undone_on IS NULL, w.amount_base - COALESCE(v.base, 0), 0), ' are')
            FROM goods_awaited w
            JOIN document d ON d.id = w.document_id
            JOIN document_line n ON n.document_id = w.document_id AND n.position = w.line_position
            LEFT JOIN (
                SELECT v.awaited_id, SUM(v.quantity) AS quantity, SUM(v.amount) AS amount, SUM(v.amount_base) AS base
                FROM goods_arrival v
                WHERE v.undone_on IS NULL
                GROUP BY v.awaited_id
            ) v ON v.awaited_id = w.id
            WHERE w.company_id = :company AND (
                w.open_quantity <> IF(w.undone_on IS NULL, w.quantity - COALESCE(v.quantity, 0), 0)
                OR w.open_amount <> IF(w.undone_on IS NULL, w.amount - COALESCE(v.amount, 0), 0)
                OR w.open_base <> IF(w.undone_on IS NULL, w.amount_base - COALESCE(v.base, 0), 0)
                OR w.open_quantity < 0 OR (w.open_quantity = 0 AND w.open_base <> 0) OR NOT n.quantity <=> w.quantity OR n.net <> w.amount
                OR w.invoiced_on <> d.posting_date OR (d.state = 'reversed') <> (w.undone_on IS NOT NULL)
                OR (w.undone_on IS NOT NULL AND v.awaited_id IS NOT NULL)
            )
            SQL,
            <<<'SQL'
            SELECT CONCAT(d.number, ' claims ', SUM(c.quantity), ' that went back of ', i.number, ', line ',
                c.line_position, ', which invoiced ',
                COALESCE(MAX(m.quantity), 0))
            FROM goods_claim c
            JOIN document d ON d.id = c.document_id
            JOIN document i ON i.id = c.invoice_id
            LEFT JOIN (
                SELECT m.document_id, m.line_position, m.delivery_line_id, SUM(m.quantity) AS quantity
                FROM goods_move m
                WHERE m.kind IN ('invoiced', 'arrived') AND m.undone_on IS NULL
                GROUP BY m.document_id, m.line_position, m.delivery_line_id
            ) m ON m.document_id = c.invoice_id AND m.line_position = c.line_position AND m.delivery_line_id = c.delivery_line_id
            WHERE d.company_id = :company AND c.undone_on IS NULL
            GROUP BY d.number, i.number, c.line_position, c.delivery_line_id, d.state
            HAVING SUM(c.quantity) > COALESCE(MAX(m.quantity), 0) OR d.state <> 'posted'
            SQL,
            <<<'SQL'
            SELECT CONCAT(s.number, ' says that ', v.quantity, ' came, what it took of ', COALESCE(g.number, 'no delivery'), ' is ',
                COALESCE(m.quantity, 0))
            FROM goods_slip s
            JOIN goods_arrival v ON v.slip_id = s.id
            JOIN goods_awaited w ON w.id = v.awaited_id
            LEFT JOIN goods_move m ON m.slip_id = s.id AND m.delivery_line_id = v.delivery_line_id AND m.line_position = w.line_position
            LEFT JOIN delivery_line l ON l.id = v.delivery_line_id
            LEFT JOIN delivery g ON g.id = l.delivery_id
            WHERE s.company_id = :company AND (NOT v.undone_on <=> s.undone_on OR (s.kind = 'arrived' AND (m.id IS NULL
                OR m.quantity <> v.quantity OR NOT m.undone_on <=> v.undone_on OR l.order_line_id <> w.order_line_id
                OR v.moved_on < g.delivered_on OR v.moved_on < w.invoiced_on)))
            SQL,
        ];
    }
}
