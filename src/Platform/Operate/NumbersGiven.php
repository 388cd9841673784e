<?php

declare(strict_types=1);

namespace Nelbix\App\Platform\Operate;

use Doctrine\DBAL\Connection;

/** How many numbers each company has given: what was posted, counted without counting it. */
final readonly class NumbersGiven implements Measures
{
    public function __construct(private Connection $db)
    {
    }

    public function measured(): iterable
    {
        foreach (
            $this->db->iterateNumeric(
                <<<'SQL'
                SELECT c.code, SUBSTRING_INDEX(n.name, '-', 1) AS kind, SUM(n.next_value)
                FROM number_sequence n
                JOIN company c ON c.id = n.company_id
                GROUP BY c.code, kind
                ORDER BY c.code, kind
                SQL
                ,
            ) as [$company, $kind, $given]
        ) {
            yield new Measured(
                'numbers_given_total',
                'Numbers given to what was posted, by company and series.',
                Measured::COUNTER,
                (int) $given,
                ['company' => (string) $company, 'series' => (string) $kind],
            );
        }
    }
}
