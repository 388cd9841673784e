<?php

declare(strict_types=1);

namespace Nelbix\App\Parties;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Refused;

/** The vendor that an electronic paper is of, found by tax number. */
final readonly class VendorOfPaper
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * @param string $what the paper, in a word
     *
     * @return array{id: int, code: string}
     *
     * @throws Refused when it names none, or one that nobody knows
     */
    public function find(int $companyId, string $taxNumber, string $name, string $what): array
    {
        $plain = strtoupper((string) preg_replace('/[^A-Za-z0-9]/', '', $taxNumber));
        $found =
            '' === $plain
                ? false
                : $this->db->fetchAssociative(
                    <<<SQL
                    SELECT id, code
                    FROM party
                    WHERE company_id = ? AND side = 'payables' AND retired = 0
                        AND UPPER(REPLACE(REPLACE(REPLACE(tax_number, ' ', ''), '-', ''), '.', '')) = ?
                    ORDER BY id
                    LIMIT 1
                    SQL
                    ,
                    [$companyId, $plain],
                );

        return false !== $found
            ? ['id' => (int) $found['id'], 'code' => (string) $found['code']]
            : throw Refused::because(
                'file',
                '' === $plain
                    ? \sprintf(
                        'The file does not say the seller’s tax number, by which the vendor is found; enter the %s by hand.',
                        $what,
                    )
                    : \sprintf(
                        'No vendor has the tax number %s of “%s”; add the vendor, or the number to the vendor, and take the file again.',
                        mb_strimwidth($taxNumber, 0, 40, '…'),
                        mb_strimwidth($name, 0, 60, '…'),
                    ),
            );
    }
}
