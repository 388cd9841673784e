<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\Connection;
use Nelbix\App\Payables\Proposal;
use Nelbix\App\Payables\ProposalState;
use Nelbix\App\Payables\RunPapers;
use Nelbix\App\Platform\StandIns;

/** Reads what printing and bank files made of a run. */
final readonly class PapersOfRun implements RunPapers
{
    public function __construct(private Connection $db, private SendToPrinter $printer, private StandIns $standIns)
    {
    }

    public function of(Proposal $proposal): array
    {
        $printed = ProposalState::Printed === $proposal->state;

        return [
            'stand_ins' => $this->standIns->here,
            'checks' => $printed ? $this->checks($proposal->id()) : [],
            'books' => ProposalState::Approved === $proposal->state ? $this->books($proposal->bankAccountId) : [],
            'outcome' => $printed ? $this->printer->outcome($proposal->id()) : [],
            'files' => ProposalState::Posted === $proposal->state ? $this->files($proposal->id()) : [],
        ];
    }

    /** @return list<array<string, mixed>> */
    private function checks(int $proposalId): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT k.*, p.name AS payee
            FROM bank_check k
            LEFT JOIN party p ON p.id = k.party_id
            WHERE k.proposal_id = ?
            ORDER BY k.number
            SQL
            ,
            [$proposalId],
        );
    }

    /** @return list<array<string, mixed>> */
    private function books(int $bankAccountId): array
    {
        return $this->db->fetchAllAssociative(
            'SELECT id, name, next_number FROM check_book WHERE bank_account_id = ? ORDER BY name',
            [$bankAccountId],
        );
    }

    /** @return list<array<string, mixed>> */
    private function files(int $proposalId): array
    {
        return $this->db->fetchAllAssociative(
            'SELECT id, number, format, payments, amount, sent_at, withdrawn_at FROM bank_file WHERE proposal_id = ? ORDER BY id',
            [$proposalId],
        );
    }
}
