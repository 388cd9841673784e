<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use DAMA\DoctrineTestBundle\Doctrine\DBAL\StaticDriver;
use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\DecideProposal;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\Process\Process;

/** Two processes at once, on committed data: one success and one refusal, no duplicate, no gap. */
final class ConcurrencyTest extends AppCase
{
    protected function setUp(): void
    {
        StaticDriver::setKeepStaticConnections(false);
        $this->code = 'C'.strtoupper(bin2hex(random_bytes(4)));
        parent::setUp();
    }

    protected function tearDown(): void
    {
        parent::tearDown();
        self::bootKernel();
        $db = $this->db();
        $db->executeStatement('SET FOREIGN_KEY_CHECKS = 0');
        foreach ($db->fetchFirstColumn('SHOW TABLES') as $table) {
            if ('doctrine_migration_versions' !== $table) {
                $db->executeStatement('TRUNCATE TABLE '.$table);
            }
        }
        $db->executeStatement('SET FOREIGN_KEY_CHECKS = 1');
        self::ensureKernelShutdown();
        StaticDriver::setKeepStaticConnections(true);
    }

    /**
     * @param list<int> ...$calls arguments of each process
     *
     * @return list<string> what each said
     */
    private function together(string $what, array ...$calls): array
    {
        $moment = (string) (microtime(true) + 1.2);
        $processes = array_map(fn (array $arguments): Process => new Process([\PHP_BINARY, __DIR__.'/concurrent.php', $what, (string) $this->clerk->companyId, (string) $this->clerk->userId, $moment, ...array_map('strval', $arguments)], null, ['APP_ENV' => 'test']), $calls);
        foreach ($processes as $process) {
            $process->start();
        }
        $said = [];
        foreach ($processes as $process) {
            $process->wait();
            self::assertSame('', $process->getErrorOutput());
            $said[] = $process->getOutput();
        }
        sort($said);

        return $said;
    }

    public function testTheSameReceiptPlacement(): void
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '1000.00'));
        $party = (int) $this->db()->fetchOne("SELECT id FROM party WHERE company_id = ? AND code = 'C-1'", [$this->clerk->companyId]);
        $bank = (int) $this->db()->fetchOne('SELECT id FROM bank_account WHERE company_id = ?', [$this->clerk->companyId]);
        for ($round = 0; $round < 3; ++$round) {
            $item = $this->itemOf($this->invoice(Side::Receivables, '1000.00'));
            [$done, $refused] = $this->together('receive', [$party, $bank, $item, 100000], [$party, $bank, $item, 100000]);
            self::assertSame('done', $done);
            self::assertStringStartsWith('refused: CI-26-', $refused);
            self::assertSame(0, $this->open($item));
        }
        self::assertSame(3, (int) $this->db()->fetchOne("SELECT COUNT(*) FROM document WHERE company_id = ? AND kind = 'receipt'", [$this->clerk->companyId]));
        self::assertSame(['RC-26-00001', 'RC-26-00002', 'RC-26-00003'], $this->db()->fetchFirstColumn("SELECT number FROM document WHERE company_id = ? AND kind = 'receipt' ORDER BY number", [$this->clerk->companyId]));
    }

    public function testChecksOfTwoRunsFromOneAccount(): void
    {
        $runs = [];
        foreach ([100, 200] as $amount) {
            $this->invoice(Side::Payables, $amount.'.00', ['document_date' => '2026-04-01']);
            ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = self::get(CriteriaReader::class)->read($this->clerk, ['pay_date' => self::DAY]);
            $runs[] = $id = self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, $method);
            self::get(DecideProposal::class)->decide($this->approver, $id, true);
        }
        $book = (int) $this->db()->fetchOne('SELECT c.id FROM check_book c JOIN bank_account b ON b.id = c.bank_account_id WHERE b.company_id = ?', [$this->clerk->companyId]);
        [$done, $refused] = $this->together('print', [$runs[0], $book, 1001], [$runs[1], $book, 1001]);
        self::assertSame('done', $done);
        self::assertStringStartsWith('refused: The next number of Checks is 1002', $refused);
        self::assertSame([1001], array_map('intval', $this->db()->fetchFirstColumn('SELECT number FROM bank_check WHERE check_book_id = ?', [$book])));
    }
}
