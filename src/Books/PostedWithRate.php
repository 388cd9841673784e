<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\Connection;
use Nelbix\App\Ledger\RateInUse;
use Nelbix\Core\Calendar\Day;

/** Documents and settlements that were valued with a rate of the table. */
final readonly class PostedWithRate implements RateInUse
{
    public function __construct(private Connection $db)
    {
    }

    public function by(int $companyId, string $currency, string $rate, Day $from, ?Day $before): ?string
    {
        $with = [
            'company' => $companyId,
            'currency' => $currency,
            'rate' => $rate,
            'from' => $from->iso(),
            'before' => ($before ?? Day::of('2199-12-31'))->iso(),
        ];
        $found = $this->db->fetchOne(
            <<<'SQL'
            SELECT number
            FROM document
            WHERE company_id = :company AND currency = :currency AND rate = :rate AND posting_date >= :from AND posting_date < :before
                AND number IS NOT NULL
            UNION ALL
            SELECT CONCAT('a settlement of ', settled_on)
            FROM settlement
            WHERE company_id = :company AND currency = :currency AND rate = :rate AND settled_on >= :from AND settled_on < :before
            LIMIT 1
            SQL
            ,
            $with,
        );

        return false === $found ? null : (string) $found;
    }
}
