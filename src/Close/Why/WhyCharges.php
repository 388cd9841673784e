<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Why;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\Document;
use Nelbix\App\Invoices\Why\Reasoned;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Calendar\Day;

/** Why a finance charge charges what it does. */
final readonly class WhyCharges
{
    public function __construct(private Connection $db)
    {
    }

    /** @return list<Reasoned> what a finance charge charges, item by item */
    public function of(Document $document): array
    {
        $reasons = [];
        foreach (
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT c.amount, c.through_on, i.number, i.due_date, (SELECT MAX(b.through_on) FROM late_charge b
                    WHERE b.item_id = c.item_id AND b.id < c.id) AS before_day
                FROM late_charge c
                JOIN open_item i ON i.id = c.item_id
                WHERE c.document_id = ?
                ORDER BY c.id
                LIMIT 100
                SQL
                ,
                [$document->id()],
            ) as $c
        ) {
            $reasons[] = new Reasoned(
                'Charge on '.$c['number'],
                Typography::amount((int) $c['amount'], $document->currency),
                'simple interest on what was open and over its due date, by days of 365, rounded once',
                [
                    'due '.Day::of((string) $c['due_date'])->long(),
                    \sprintf(
                        'charged after %s through %s',
                        Day::of((string) ($c['before_day'] ?? $c['due_date']))->long(),
                        Day::of((string) $c['through_on'])->long(),
                    ),
                ],
            );
        }

        return $reasons;
    }
}
