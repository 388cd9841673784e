<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\DBAL\Connection;

/** Whom a run pays and where to, as its approver saw it: checks and bank files are made of this, whatever is changed afterwards. */
final readonly class ApprovedPayees
{
    public function __construct(private Connection $db)
    {
    }

    /** Takes what stands now. A run that is approved again is taken anew. */
    public function keep(int $proposalId): void
    {
        $this->db->executeStatement('DELETE FROM approved_payee WHERE proposal_id = ?', [$proposalId]);
        $this->db->executeStatement(
            <<<'SQL'
            INSERT INTO approved_payee (proposal_id, payment, name, street, city, country, iban, bic, routing_number, account_number,
                party_name, party_country)
            SELECT y.proposal_id, y.payment, COALESCE(NULLIF(a.name, ''), p.name), COALESCE(a.street, p.street),
                COALESCE(a.city, p.city), COALESCE(a.country, p.country), COALESCE(b.iban, p.iban), COALESCE(b.bic, p.bic),
                COALESCE(b.routing_number, p.routing_number), COALESCE(b.account_number, p.account_number), p.name, p.country
            FROM proposal_payment y
            JOIN party p ON p.id = y.party_id
            LEFT JOIN party_bank b ON b.id = y.party_bank_id
            LEFT JOIN party_address a ON a.party_id = p.id AND a.kind = 'remit'
            WHERE y.proposal_id = ?
            SQL
            ,
            [$proposalId],
        );
    }
}
