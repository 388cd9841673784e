<?php

declare(strict_types=1);

namespace Nelbix\App\Parties;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\WaitingLine;
use Nelbix\App\Platform\Waits;
use Nelbix\Core\Ledger\Side;

/** Vendors whose bank details wait for a second person. */
final readonly class WaitingBankDetails implements Waits
{
    public function __construct(private Connection $db)
    {
    }

    public function lines(Desk $desk): iterable
    {
        if (!$desk->sees(Side::Payables)) {
            return;
        }
        $count = (int) $this->db->fetchOne(
            <<<'SQL'
            SELECT COUNT(*)
            FROM party
            WHERE company_id = ? AND side = 'payables' AND (bank_confirmed = 0
                OR EXISTS (SELECT 1 FROM party_bank b WHERE b.party_id = party.id AND b.confirmed = 0))
            SQL
            ,
            [$desk->id()],
        );
        yield new WaitingLine(
            WaitingLine::PAYABLES,
            130,
            'bank_details',
            'vendors’ bank details wait for a second person',
            $count,
            0,
            'parties',
            ['side' => 'payables'],
            'Confirm',
        );
    }
}
