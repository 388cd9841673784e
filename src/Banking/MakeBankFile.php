<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\Connection;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Books\DocumentHold;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Numbering;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Payment\BankKey;
use Nelbix\Core\Formats\Payment\PaymentOrder;
use Nelbix\Core\Formats\Payment\Transfer;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Puts the posted transfers of a run into one file for the bank. A payment is in one file, unless that is withdrawn. */
final readonly class MakeBankFile
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private Connection $db,
        private BankAccounts $banks,
        private Numbering $numbering,
        private History $history,
        private ClockInterface $clock,
        private DocumentHold $hold,
    ) {
    }

    /**
     * @return int the file's id
     *
     * @throws Refused when the run is not posted, none of its payments waits for a file, or one cannot go into this format
     */
    public function ofRun(Actor $actor, int $proposalId, FileFormat $format): int
    {
        return $this->transaction->run(function () use ($actor, $proposalId, $format): int {
            $run = $this->db->fetchAssociative(
                "SELECT number, bank_account_id, pay_date FROM proposal WHERE id = ? AND company_id = ? AND state = 'posted' FOR UPDATE",
                [$proposalId, $actor->companyId],
            );
            if (false === $run) {
                throw Refused::because('', 'Only a posted run of this company goes into a bank file.');
            }
            // none of them is voided before the file is there; what is read below is read after they are held
            $this->hold->hold(
                array_map(
                    'intval',
                    $this->db->fetchFirstColumn(
                        <<<'SQL'
                        SELECT document_id
                        FROM proposal_payment
                        WHERE proposal_id = ? AND pay_by = 'file' AND document_id IS NOT NULL
                        LOCK IN SHARE MODE
                        SQL
                        ,
                        [$proposalId],
                    ),
                ),
            );
            $rows = $this->db->fetchAllAssociative(
                <<<SQL
                SELECT d.id, d.number, d.total, d.currency, COALESCE(v.party_name, p.name) AS name,
                    COALESCE(v.party_country, p.country) AS country, COALESCE(v.iban, b.iban, p.iban) AS iban,
                    COALESCE(v.bic, b.bic, p.bic) AS bic, COALESCE(v.routing_number, b.routing_number, p.routing_number) AS routing,
                    COALESCE(v.account_number, b.account_number, p.account_number) AS account,
                    IF(b.id IS NULL, p.bank_confirmed, b.confirmed) AS confirmed, y.payment
                FROM proposal_payment y
                JOIN document d ON d.id = y.document_id
                JOIN party p ON p.id = y.party_id
                LEFT JOIN party_bank b ON b.id = y.party_bank_id
                LEFT JOIN approved_payee v ON v.proposal_id = y.proposal_id AND v.payment = y.payment
                LEFT JOIN bank_file_line l ON l.document_id = d.id
                WHERE y.proposal_id = ? AND y.pay_by = 'file' AND d.state = 'posted' AND l.id IS NULL
                ORDER BY y.payment
                SQL
                ,
                [$proposalId],
            );
            if ([] === $rows) {
                throw Refused::because(
                    '',
                    \sprintf(
                        'No payment of %s waits for a bank file; look at the files that were made of it.',
                        $run['number'],
                    ),
                );
            }
            $pays = [];
            foreach (
                $this->db->iterateAssociative(
                    <<<'SQL'
                    SELECT l.payment, l.pay, d.their_number, i.number
                    FROM proposal_line l
                    JOIN open_item i ON i.id = l.item_id
                    JOIN document d ON d.id = i.document_id
                    WHERE l.proposal_id = ? AND l.is_in = 1 AND l.dropped = 0
                    ORDER BY l.payment, i.due_date, i.id
                    SQL
                    ,
                    [$proposalId],
                ) as $r
            ) {
                $pays[(int) $r['payment']][] = [
                    'number' => '' === $r['their_number'] ? (string) $r['number'] : (string) $r['their_number'],
                    'amount' => (int) $r['pay'],
                ];
            }
            $transfers = [];
            foreach ($rows as $r) {
                if (!(bool) $r['confirmed']) {
                    throw Refused::because(
                        '',
                        \sprintf(
                            'The bank details of %s await a second person; until then no money goes there.',
                            $r['name'],
                        ),
                    );
                }
                $transfers[] = new Transfer(
                    (string) $r['number'],
                    (string) $r['name'],
                    new BankKey(
                        (string) $r['iban'],
                        (string) $r['bic'],
                        (string) $r['routing'],
                        (string) $r['account'],
                    ),
                    (int) $r['total'],
                    (string) $r['country'],
                    $pays[(int) $r['payment']] ?? [],
                );
            }
            $file = $this->make(
                $actor,
                (int) $run['bank_account_id'],
                $proposalId,
                Day::of((string) $run['pay_date']),
                $format,
                (string) $rows[0]['currency'],
                $transfers,
            );
            foreach ($rows as $r) {
                $this->db->executeStatement(
                    'INSERT INTO bank_file_line (bank_file_id, document_id, end_to_end, amount) VALUES (?, ?, ?, ?)',
                    [$file->id(), $r['id'], $r['number'], $r['total']],
                );
            }
            $this->history->note($actor, 'proposal', $proposalId, 'bank file '.$file->number, $format->words());

            return $file->id();
        });
    }

    /**
     * Zero-amount entries that test the accounts of vendors who are paid by ACH and were not tested yet.
     *
     * @throws Refused when there is none
     */
    public function prenotes(Actor $actor, int $bankAccountId, Day $day): int
    {
        return $this->transaction->run(function () use ($actor, $bankAccountId, $day): int {
            $rows = $this->db->fetchAllAssociative(
                <<<SQL
                SELECT id, code, name, routing_number, account_number
                FROM party
                WHERE company_id = ? AND side = 'payables' AND method = 'transfer' AND retired = 0 AND bank_confirmed = 1
                    AND routing_number <> '' AND account_number <> '' AND prenoted <> CONCAT(routing_number, account_number)
                ORDER BY code
                FOR UPDATE
                SQL
                ,
                [$actor->companyId],
            );
            if ([] === $rows) {
                throw Refused::because(
                    '',
                    'Every vendor that is paid by ACH was tested already; a changed account is tested again once it is confirmed.',
                );
            }
            $file = $this->make(
                $actor,
                $bankAccountId,
                null,
                $day,
                FileFormat::Prenote,
                'USD',
                array_map(
                    static fn (array $r): Transfer => new Transfer(
                        (string) $r['code'],
                        (string) $r['name'],
                        new BankKey('', '', (string) $r['routing_number'], (string) $r['account_number']),
                        0,
                    ),
                    $rows,
                ),
            );
            $this->db->executeStatement(
                'UPDATE party SET prenoted = CONCAT(routing_number, account_number) WHERE id IN ('.
                    implode(',', array_map(static fn (array $r): int => (int) $r['id'], $rows)).
                    ')',
            );

            return $file->id();
        });
    }

    /** @param non-empty-list<Transfer> $transfers */
    private function make(
        Actor $actor,
        int $bankAccountId,
        ?int $proposalId,
        Day $day,
        FileFormat $format,
        string $currency,
        array $transfers,
    ): BankFile {
        $bank =
            $this->banks->find($actor->companyId, $bankAccountId) ??
            throw Refused::because('bank', 'There is no such bank account in this company.', ProblemKind::Unknown);
        $number = $this->numbering->document($actor->companyId, 'BF', $day);
        $order = new PaymentOrder(
            $number,
            $this->clock->now(),
            $day,
            $this->entities->find(Company::class, $actor->companyId)->name ?? '',
            $currency,
            new BankKey($bank->iban, $bank->bic, $bank->routingNumber, $bank->accountNumber),
            $bank->currency,
            $bank->name,
            $bank->companyNumber,
            $transfers,
        );
        $content = $format->writer($bank->balanced)->write($order);
        $file = new BankFile(
            $actor->companyId,
            $bankAccountId,
            $proposalId,
            $number,
            $format,
            $day,
            \count($transfers),
            $order->total(),
            $content,
            hash('sha256', $content),
            $actor->userId,
            $this->clock->now(),
        );
        $this->entities->persist($file);
        $this->entities->flush();
        $this->history->note($actor, 'bank_file', $file->id(), 'made', \sprintf('%d payments', \count($transfers)));

        return $file;
    }
}
