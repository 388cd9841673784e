<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Parties\BankDetailsInUse;

/** Payments of runs that are not posted, or not in a bank file yet. */
final readonly class PaymentsOnTheirWay implements BankDetailsInUse
{
    public function __construct(private Connection $db)
    {
    }

    public function run(array $bankIds): ?string
    {
        $run = $this->db->fetchOne(
            <<<'SQL'
            SELECT r.number
            FROM proposal_payment y
            JOIN proposal r ON r.id = y.proposal_id
            LEFT JOIN document d ON d.id = y.document_id
            LEFT JOIN bank_file_line l ON l.document_id = y.document_id
            WHERE y.party_bank_id IN (:banks) AND r.state <> 'dropped' AND l.id IS NULL
                AND (d.id IS NULL OR d.state = 'posted')
            LIMIT 1
            SQL
            ,
            ['banks' => $bankIds],
            ['banks' => ArrayParameterType::INTEGER],
        );

        return false === $run ? null : (string) $run;
    }
}
