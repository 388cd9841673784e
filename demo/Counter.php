<?php

declare(strict_types=1);

namespace Nelbix\Demo;

use Doctrine\DBAL\Connection;
use Nelbix\App\Banking\SignMandate;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Money\MakeDeposit;
use Nelbix\App\Money\OnHandQuery;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Mod97;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;

/** Checks and cash of the last days: some are at the bank already, on one slip, the others wait for the next. */
final readonly class Counter
{
    /** How many days ago, how it came, its number. */
    private const RECEIPTS = [
        [6, 'check', '20418'],
        [5, 'check', '771'],
        [5, 'cash', 'counter'],
        [2, 'check', '10093'],
        [1, 'check', '3312'],
        [0, 'cash', 'counter'],
    ];

    public function __construct(
        private Acts $acts,
        private Connection $db,
        private Settings $settings,
        private MakeDeposit $deposit,
        private OnHandQuery $onHand,
        private SignMandate $sign,
    ) {
    }

    public function open(Actor $actor): void
    {
        $this->settings->keep($actor->companyId, ['deposit_slips' => 'yes']);
        foreach (self::RECEIPTS as [$ago, $method, $number]) {
            $day = $this->acts->end->plusDays(-$ago);
            $this->receive($actor, $day, $method, $number);
            if (5 === $ago && 'cash' === $method) {
                $keys = array_column($this->onHand->of($actor->companyId, $day), 'key');
                $this->deposit->deposit($actor, $keys, $day->plusDays(1), null);
            }
        }
    }

    /** Customers who let their debts be collected, and what the company is known by to their banks. */
    public function mandates(Actor $actor): void
    {
        $known = Mod97::digits('ZZZ12345678', 'DK');
        $this->settings->keep($actor->companyId, ['creditor_id' => 'DK'.$known.'ZZZ12345678']);
        $customers = Group::others($this->acts->parties($actor, Side::Receivables));
        foreach (\array_slice($customers, 0, 5) as $n => $customer) {
            $this->sign->sign($actor, $customer['id'], [
                'reference' => \sprintf('TN-%04d', 31 + 7 * $n),
                'signed_on' => $this->acts->end->plusDays(-300 + 40 * $n)->iso(),
                'iban' => Tamarack::iban(770_100 + $n),
                'scheme' => 3 === $n ? 'B2B' : 'CORE',
            ]);
        }
    }

    /** Some customer pays the oldest of its invoices that one would pay in this way. */
    private function receive(Actor $actor, Day $day, string $method, string $number): void
    {
        $item = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT i.id, i.open, i.party_id, p.code, p.name
            FROM open_item i
            JOIN party p ON p.id = i.party_id AND p.nobody = 0
            WHERE i.company_id = ? AND i.side = 'receivables' AND i.kind = 'invoice' AND i.currency = ? AND i.posting_date <= ?
                AND i.open BETWEEN 1 AND ? AND i.due_date > ?
            ORDER BY i.due_date, i.id
            LIMIT 1
            SQL
            ,
            [
                $actor->companyId,
                $actor->baseCurrency,
                $day->iso(),
                'cash' === $method ? 60_000 : 400_000,
                $day->plusDays(-20)->iso(),
            ],
        );
        if (false === $item) {
            return;
        }
        $this->acts->money(
            $actor,
            Side::Receivables,
            DocumentKind::Receipt,
            [
                'id' => (int) $item['party_id'],
                'code' => (string) $item['code'],
                'name' => (string) $item['name'],
                'currency' => $actor->baseCurrency,
                'method' => $method,
            ],
            $day,
            (int) $item['open'],
            [new PlacementRequest((int) $item['id'], (int) $item['open'])],
            [],
            $number,
            $method,
        );
    }
}
