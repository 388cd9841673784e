<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Why;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\App\Books\Document;
use Nelbix\App\Invoices\Why\Reasoned;
use Nelbix\App\Platform\Typography;
use Nelbix\App\Platform\Words;
use Nelbix\App\Receivables\LateCharge;
use Nelbix\Core\Calendar\Day;

/**
 * Why a finance charge charges what it does.
 *
 * @phpstan-import-type Worked from LateCharge
 */
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
                SELECT c.amount, c.through_on, c.worked, i.number, i.due_date, (SELECT MAX(b.through_on) FROM late_charge b
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
            /** @var Worked|null $worked */
            $worked = null === $c['worked'] ? null : json_decode((string) $c['worked'], true, 8, \JSON_THROW_ON_ERROR);
            $reasons[] = new Reasoned(
                'Charge on '.$c['number'],
                Typography::amount((int) $c['amount'], $document->currency),
                'simple interest on what was open and over its due date, by days of 365, rounded once',
                [
                    'due '.Day::of((string) $c['due_date'])->long(),
                    ...null === $worked
                        ? [
                            \sprintf(
                                'charged after %s through %s',
                                Day::of((string) ($c['before_day'] ?? $c['due_date']))->long(),
                                Day::of((string) $c['through_on'])->long(),
                            ),
                        ]
                        : self::working($worked, $document->currency),
                ],
            );
        }

        return $reasons;
    }

    /**
     * @param Worked $worked
     *
     * @return list<string>
     */
    private static function working(array $worked, string $currency): array
    {
        $percent = (string) BigDecimal::of($worked['rate'])->stripTrailingZeros();

        return array_map(
            static fn (array $span): string => \sprintf(
                '%s for %s after %s through %s, at %s %% a year',
                Typography::amount($span['open'], $currency),
                Words::count($span['days'], 'day'),
                Day::of($span['after'])->long(),
                Day::of($span['through'])->long(),
                $percent,
            ),
            $worked['spans'],
        );
    }
}
