<?php

declare(strict_types=1);

namespace Nelbix\Demo;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Banking\FileFormat;
use Nelbix\App\Banking\MakeBankFile;
use Nelbix\App\Banking\PrintChecks;
use Nelbix\App\Banking\SendBankFile;
use Nelbix\App\Money\RequestRefund;
use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\DecideProposal;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\App\Payables\PayHabits;
use Nelbix\App\Payables\StartRun;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Work\Worker;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;

/** The demo's payment runs: checks every fortnight, transfers by bank file at the end, pay habits, a refund that waits. */
final readonly class MoneyOut
{
    public function __construct(
        private EntityManagerInterface $entities,
        private CriteriaReader $criteria,
        private MakeProposal $makeProposal,
        private DecideProposal $decideProposal,
        private PrintChecks $printChecks,
        private StartRun $startRun,
        private Worker $worker,
        private MakeBankFile $makeBankFile,
        private SendBankFile $sendBankFile,
        private PayHabits $payHabits,
        private RequestRefund $requestRefund,
    ) {
    }

    /** @return int payments */
    public function checks(Actor $clerk, Actor $approver, Day $day): int
    {
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = $this->criteria->read($clerk, [
            'pay_date' => $day->iso(),
            'due_through' => $day->plusDays(5)->iso(),
            'again_on' => $day->plusDays(14)->iso(),
        ]);
        try {
            $id = $this->makeProposal->make($clerk, $criteria, $bank, $method, ['pay_date' => $day->iso()]);
        } catch (Refused) {
            return 0; // nothing to pay this time
        }
        $this->decideProposal->decide($approver, $id, true);
        $book =
            $this->entities
                ->getConnection()
                ->fetchAssociative('SELECT id, next_number FROM check_book WHERE bank_account_id = ?', [$bank]) ?:
            throw new \LogicException();
        $this->printChecks->print($clerk, $id, (int) $book['id'], (int) $book['next_number']);
        $spoiled = 0 === $day->month % 5 && $day->day < 15 ? [(int) $book['next_number']] : [];
        if ($this->printChecks->sayWhatPrinted($clerk, $id, $spoiled, 'jammed') > 0) {
            $this->printChecks->sayWhatPrinted($clerk, $id, [], '');
        }

        return $this->worker->finish($this->startRun->start($clerk, $id))->done;
    }

    /**
     * What is open to vendors who are paid by ACH, in one file that went to the bank; it sent one payment back.
     *
     * @return int payments
     */
    public function transfers(Actor $clerk, Actor $approver, Day $day): int
    {
        $db = $this->entities->getConnection();
        $vendors = $db->fetchFirstColumn(
            "SELECT code FROM party WHERE company_id = ? AND side = 'payables' AND method = 'transfer' AND routing_number <> ''",
            [$clerk->companyId],
        );
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = $this->criteria->read($clerk, [
            'pay_date' => $day->iso(),
            'due_through' => $day->plusDays(45)->iso(),
            'again_on' => $day->plusDays(14)->iso(),
            'method' => 'transfer',
            'vendors' => $vendors,
        ]);
        $id = $this->makeProposal->make($clerk, $criteria, $bank, $method, [
            'method' => 'transfer',
            'vendors' => implode(' ', $vendors),
        ]);
        $this->decideProposal->decide($approver, $id, true);
        $done = $this->worker->finish($this->startRun->start($clerk, $id))->done;
        $rejected = $db->fetchOne(
            <<<'SQL'
            SELECT d.number
            FROM proposal_payment y
            JOIN document d ON d.id = y.document_id
            WHERE y.proposal_id = ?
            ORDER BY d.total
            LIMIT 1
            SQL
            ,
            [$id],
        );
        $this->sendBankFile->send(
            $clerk,
            $this->makeBankFile->ofRun($clerk, $id, FileFormat::Ach),
            false,
            $done > 1 ? [(string) $rejected] : [],
        );

        return $done;
    }

    public function habits(Actor $clerk, Day $day): void
    {
        $this->payHabits->keep($clerk, 'fortnight’s checks', true, [
            'method' => 'check',
            'pay_date' => $day->iso(),
            'due_through' => $day->plusDays(5)->iso(),
            'again_on' => $day->plusDays(14)->iso(),
        ]);
        $this->payHabits->keep($clerk, 'who stops our work', true, [
            'method' => CriteriaReader::ALL,
            'if_late' => 'stops_work',
            'pay_date' => $day->iso(),
            'due_through' => $day->plusDays(10)->iso(),
        ]);
    }

    /** A customer who paid too much, and wants it back. */
    public function refund(Actor $clerk, int $receiptId, Day $day): void
    {
        $credit =
            $this->entities
                ->getConnection()
                ->fetchAssociative('SELECT id, open FROM open_item WHERE document_id = ? AND open < 0', [$receiptId]) ?:
            throw new \LogicException();
        $this->requestRefund->request($clerk, (int) $credit['id'], -(int) $credit['open'], $day, 'paid twice');
    }
}
