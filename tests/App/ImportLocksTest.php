<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\DBAL\Connection;
use Doctrine\DBAL\DriverManager;
use Doctrine\DBAL\Exception as DatabaseException;
use Nelbix\App\Books\ItemLocks;
use Nelbix\App\Import\ImportFile;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Ledger\Side;

/** While a file is checked nobody else waits: what the check has looked at can be locked by others at once. */
final class ImportLocksTest extends CommittedCase
{
    private Connection $other;

    protected function setUp(): void
    {
        parent::setUp();
        $parameters = $this->db()->getParams();
        \assert(isset($parameters['driver']));
        $this->other = DriverManager::getConnection($parameters);
    }

    protected function tearDown(): void
    {
        $this->other->close();
        parent::tearDown();
    }

    public function testACheckOfInvoicesLocksNothing(): void
    {
        $this->invoice(Side::Payables, '1.00');
        $csv = "party,number,document_date,account,amount\n";
        for ($n = 0; $n < 20; ++$n) {
            $csv .= "V-1,F-$n,2026-06-02,5000,1$n.00\n";
        }
        $looked = 0;
        $result = self::get(ImportFile::class)->import(
            $this->clerk,
            'vendor-invoices',
            $csv,
            true,
            false,
            function () use (&$looked): void {
                foreach (['party', 'number_sequence', 'period', 'document', 'open_item', 'account'] as $table) {
                    $this->free('SELECT 1 FROM '.$table);
                }
                ++$looked;
            },
        );
        self::assertSame([20, []], [$result['created'], $result['errors']]);
        self::assertSame(20, $looked);
        self::assertSame(1, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM document'), 'nothing is kept');
    }

    public function testACheckOfReceiptsLetsGoOfEachPartyAtOnce(): void
    {
        $csv = "party,date,bank,currency,amount,number,apply_to,applied,look_alike_reason\n";
        $number = '';
        foreach (['R-1', 'R-2', 'R-3', 'again'] as $reference) {
            if ('again' !== $reference) {
                $number = (string) $this->db()->fetchOne('SELECT number FROM document WHERE id = ?', [
                    $this->invoice(Side::Receivables, '50.00'),
                ]);
            }
            $csv .= "C-1,2026-06-12,1000,USD,50.00,$reference,$number,50.00,another\n";
        }
        // twice on one item: the check sees it although nothing of the first is kept
        $result = self::get(ImportFile::class)->import($this->clerk, 'receipts', $csv, true);
        self::assertSame([5], array_map(static fn ($p): ?int => $p->line, $result['errors']));
        $this->free('SELECT id FROM open_item');
        self::assertSame(0, (int) $this->db()->fetchOne("SELECT COUNT(*) FROM document WHERE kind = 'receipt'"));
    }

    /** Each way to lock items keeps others out until the transaction ends. */
    public function testItemsThatAreLockedAreLocked(): void
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '50.00'));
        $locks = self::get(ItemLocks::class);
        foreach (
            [
                'lock' => fn () => $locks->lock($this->clerk, [$item]),
                'hold' => static fn () => $locks->hold([$item]),
                'held' => fn () => $locks->held($this->clerk, [$item]),
            ] as $way => $lock
        ) {
            $kept = self::get(Transaction::class)->run(function () use ($lock): bool {
                $lock();
                try {
                    $this->free('SELECT id FROM open_item');

                    return false;
                } catch (DatabaseException) {
                    $this->other->rollBack();

                    return true;
                }
            });
            self::assertTrue($kept, $way);
            $this->free('SELECT id FROM open_item');
        }
    }

    /** Takes the lock of every row and lets it go; fails when somebody holds one. */
    private function free(string $sql): void
    {
        $this->other->beginTransaction();
        $this->other->fetchAllAssociative($sql.' FOR UPDATE NOWAIT');
        $this->other->rollBack();
    }
}
