<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\WaitingLine;
use Nelbix\App\Platform\Waits;
use Nelbix\Core\Ledger\Side;

/** Discounts that lapse soon, and runs on their way. */
final readonly class WaitingPayments implements Waits
{
    /** How far ahead a discount counts as about to lapse. */
    private const DAYS_AHEAD = 7;

    /** By state of the run: what waits, and what one does. */
    private const RUNS = [
        'review' => ['proposals await approval', 'Review'],
        'refused' => ['proposals were sent back', 'Mend'],
        'approved' => ['approved runs are to be printed', 'Print checks'],
        'printed' => ['printed runs are to be posted', 'Say what printed'],
        'posting' => ['runs are being posted', 'See how far'],
    ];

    public function __construct(private Connection $db)
    {
    }

    public function lines(Desk $desk): iterable
    {
        if (!$desk->sees(Side::Payables)) {
            return;
        }
        $runs = $this->counts($desk);
        yield self::lapsing(...$runs['lapse'] ?? [0, 0]);
        $place = 30;
        foreach (self::RUNS as $state => [$text, $do]) {
            [$count, $amount] = $runs[$state] ?? [0, 0];
            yield new WaitingLine(
                WaitingLine::PAYABLES,
                ++$place,
                'proposal_'.$state,
                $text,
                $count,
                $amount,
                'posting' === $state ? 'work' : 'proposals',
                [],
                $do,
            );
        }
    }

    private static function lapsing(int $count, int $worth): WaitingLine
    {
        return new WaitingLine(
            WaitingLine::PAYABLES,
            10,
            'lapse',
            \sprintf('discounts lapse within %d days', self::DAYS_AHEAD),
            $count,
            $worth,
            'items',
            ['side' => 'payables', 'only' => 'discount'],
            'See which',
        );
    }

    /** @return array<string, array{int, int}> count and worth in base currency, of runs by state, and of discounts that lapse */
    private function counts(Desk $desk): array
    {
        $runs = [];
        $unpaid = ProposalState::unpaid();
        foreach (
            $this->db->iterateNumeric(
                <<<SQL
                SELECT p.state, COUNT(DISTINCT p.id), COALESCE(SUM(ROUND(CAST(l.pay AS DECIMAL(30)) * i.original_base / i.original)), 0)
                FROM proposal p
                LEFT JOIN proposal_line l ON l.proposal_id = p.id AND l.is_in = 1 AND l.dropped = 0
                LEFT JOIN open_item i ON i.id = l.item_id
                WHERE p.company_id = ? AND p.state IN ($unpaid)
                GROUP BY p.state
                UNION ALL
                SELECT 'lapse', COUNT(*), COALESCE(SUM(ROUND(CAST(x.amount AS DECIMAL(30)) * i.open_base / i.original)), 0)
                FROM open_item i
                JOIN item_discount x ON x.item_id = i.id
                WHERE i.company_id = ? AND i.side = 'payables' AND i.open > 0 AND x.through BETWEEN ? AND ?
                SQL
                ,
                [$desk->id(), $desk->id(), $desk->today->iso(), $desk->today->plusDays(self::DAYS_AHEAD)->iso()],
            ) as [$state, $count, $amount]
        ) {
            $runs[(string) $state] = [(int) $count, (int) $amount];
        }

        return $runs;
    }
}
