<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\DBAL\Exception\DeadlockException;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\ChangePosted;
use Nelbix\App\Books\HowTakenBack;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Import\ImportFile;
use Nelbix\App\Invoices\KeepDraft;
use Nelbix\App\Ledger\PostJournalEntry;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\People\User;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\CompanySettings;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Numbering;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Platform\Transaction;
use Nelbix\App\Today\WhatWaits;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Currency;
use Symfony\Component\DependencyInjection\Attribute\Exclude;
use Symfony\Component\Filesystem\Filesystem;
use Symfony\Component\Process\Process;
use Symfony\Contracts\Service\ResetInterface;

/** What the use cases stand on: the runner, numbers, settings, rates; and the counts of Today. */
final class RunnerTest extends AppCase
{
    private function deadlock(): DeadlockException
    {
        $driver = new class('Deadlock found', '40001', 1213) extends \Doctrine\DBAL\Driver\AbstractException {};

        return new DeadlockException($driver, null);
    }

    public function testADeadlockIsTriedAgainAndLeavesNothingBehind(): void
    {
        $tries = 0;
        $result = self::get(Transaction::class)->run(function () use (&$tries): string {
            ++$tries;
            $this->db()->executeStatement("INSERT INTO setting (company_id, name, value) VALUES (?, ?, 'x')", [
                $this->clerk->companyId,
                'try_'.$tries,
            ]);
            if ($tries < 3) {
                throw $this->deadlock();
            }

            return 'done';
        });
        self::assertSame(['done', 3], [$result, $tries]);
        self::assertSame(['try_3'], $this->db()->fetchFirstColumn("SELECT name FROM setting WHERE name LIKE 'try%'"));
    }

    public function testOtherErrorsAreNotTriedAgain(): void
    {
        $tries = 0;
        try {
            self::get(Transaction::class)->run(function () use (&$tries): never {
                ++$tries;
                $this->db()->executeStatement("INSERT INTO setting (company_id, name, value) VALUES (?, 'half', 'x')", [
                    $this->clerk->companyId,
                ]);
                throw new \RuntimeException('no');
            });
        } catch (\RuntimeException) {
        }
        self::assertSame(1, $tries);
        self::assertFalse($this->db()->fetchOne("SELECT 1 FROM setting WHERE name = 'half'"), 'nothing is half saved');
    }

    public function testAUseCaseInsideAnotherJoinsIt(): void
    {
        $transaction = self::get(Transaction::class);
        try {
            $transaction->run(function () use ($transaction): never {
                $transaction->run(
                    fn () => $this->db()->executeStatement(
                        "INSERT INTO setting (company_id, name, value) VALUES (?, 'inner', 'x')",
                        [$this->clerk->companyId],
                    ),
                );
                throw new \RuntimeException('outer fails');
            });
        } catch (\RuntimeException) {
        }
        self::assertFalse($this->db()->fetchOne("SELECT 1 FROM setting WHERE name = 'inner'"));
    }

    public function testNumbersCountPerNameAndYear(): void
    {
        $numbering = self::get(Numbering::class);
        $c = $this->clerk->companyId;
        self::assertSame(
            ['VI-26-00001', 'VI-26-00002', 'VI-27-00001', 'VC-26-00001'],
            [
                $numbering->document($c, 'VI', Day::of('2026-06-15')),
                $numbering->document($c, 'VI', Day::of('2026-06-15')),
                $numbering->document($c, 'VI', Day::of('2027-01-01')),
                $numbering->document($c, 'VC', Day::of('2026-06-15')),
            ],
        );
        $this->db()->executeStatement("DELETE FROM number_sequence WHERE company_id = $c");
    }

    public function testSettingsHaveTheirDefaultsAndAreChecked(): void
    {
        $s = self::get(Settings::class)->of($this->clerk->companyId);
        // rules.md, Settings
        self::assertSame(
            ['total', 10, true, 1000000, 5],
            [
                $s->values['discount_base'],
                $s->lookAlikeDays(),
                $s->monthFirst(),
                $s->amount('invoice_approval_above', 'USD'),
                $s->amount('tax_tolerance', 'USD'),
            ],
        );
        // the smaller of 1.00 and 0.5 %
        self::assertSame(
            [100, 100, 50, 1],
            [
                $s->smallDifference(1_000_000, 'USD'),
                $s->smallDifference(20_000, 'USD'),
                $s->smallDifference(10_000, 'USD'),
                $s->smallDifference(100, 'USD'),
            ],
        );
        $usd = Currency::of('USD');
        self::assertSame(
            ['tolerance_amount' => '2.00'],
            CompanySettings::read(['tolerance_amount' => '2', 'unknown' => 'x'], $usd),
        );
        foreach (
            [
                'tolerance_amount' => '1.005',
                'tolerance_percent' => 'half',
                'look_alike_days' => '-1',
                'discount_base' => 'gross',
                'tax_tolerance' => ['array'],
            ] as $name => $value
        ) {
            self::assertSame(
                [$name],
                self::refusedFields(static fn () => CompanySettings::read([$name => $value], $usd)),
            );
        }
    }

    public function testTheLastRateOnOrBeforeTheDay(): void
    {
        foreach (['2026-06-01' => '1.10', '2026-06-10' => '1.12'] as $day => $rate) {
            $this->db()->executeStatement(
                "INSERT INTO exchange_rate (company_id, valid_on, from_currency, to_currency, rate) VALUES (?, ?, 'EUR', 'USD', ?)",
                [$this->clerk->companyId, $day, $rate],
            );
        }
        $on = fn (string $day): string => (string) self::get(Rates::class)
            ->on($this->clerk->companyId, 'EUR', 'USD', Day::of($day))
            ->stripTrailingZeros();
        self::assertSame(
            ['1.1', '1.1', '1.12', '1.12'],
            [$on('2026-06-01'), $on('2026-06-09'), $on('2026-06-10'), $on('2027-01-01')],
        );
        self::assertSame(
            '1',
            (string) self::get(Rates::class)->on($this->clerk->companyId, 'USD', 'USD', Day::of('2026-06-01')),
        );
        self::assertSame(['rate'], self::refusedFields(fn () => $on('2026-05-31')));
    }

    public function testTodayCountsWhatWaits(): void
    {
        $em = self::get(EntityManagerInterface::class);
        $today = function (string $role = 'controller') use ($em): array {
            $company = $em->find(Company::class, $this->clerk->companyId) ?? self::fail();
            $user = $em->getRepository(User::class)->findOneBy(['username' => $role]) ?? self::fail();
            $found = [];
            $desk = new Desk($company, $user, Actor::of($company, $user), Day::of(self::DAY));
            foreach (self::get(WhatWaits::class)->for($desk) as $line) {
                $found[$line->key] = ['count' => $line->count, 'amount' => $line->amount];
            }

            return $found;
        };
        self::assertSame([], $today());
        $this->invoice(Side::Payables, '1000.00');
        $this->invoice(Side::Payables, '70.00', ['document_date' => '2026-04-01', 'terms' => 'N30']);
        $this->invoice(Side::Receivables, '80.00', ['document_date' => '2026-04-01', 'terms' => 'N30']);
        $this->invoice(Side::Payables, '20000.00', ['terms' => 'N60']);
        self::get(ChangePosted::class)->hold(
            $this->clerk,
            $this->invoice(Side::Payables, '5.00', ['terms' => 'N60']),
            'why not',
        );
        $this->money(Side::Receivables, 2500);
        self::get(KeepDraft::class)->keep($this->clerk, Side::Payables, [
            'party' => 'V-1',
            'document_date' => '.',
            'lines' => [['account' => '5000', 'amount' => '3']],
        ]);
        self::get(SaveParty::class)->save($this->clerk, Side::Payables, [
            'code' => 'V-2',
            'name' => 'X',
            'iban' => 'DK5000400440116243',
        ]);
        self::assertEquals(
            [
                'lapse' => ['count' => 1, 'amount' => 2000],
                'overdue_payables' => ['count' => 1, 'amount' => 7000],
                'overdue_receivables' => ['count' => 1, 'amount' => 8000],
                'unapplied_receivables' => ['count' => 1, 'amount' => 2500],
                'awaiting_payables' => ['count' => 1, 'amount' => 2000000],
                'held_payables' => ['count' => 1, 'amount' => 500],
                'drafts_payables' => ['count' => 1, 'amount' => 300],
                'bank_details' => ['count' => 1, 'amount' => 0],
            ],
            $today(),
        );
        self::assertSame(
            ['overdue_receivables', 'unapplied_receivables'],
            array_keys($today('receivables')),
            'each sees its own, in order',
        );
        self::assertSame([], $today('receiver'));
        $this->oddCasesStandOnToday($today);
    }

    /** @param \Closure(string=): array<string, array{count: int, amount: int}> $today */
    private function oddCasesStandOnToday(\Closure $today): void
    {
        $this->money(Side::Payables, 40000, [], [], self::DAY, DocumentKind::Prepayment);
        $this->money(Side::Receivables, 30000, [], [], self::DAY, DocumentKind::Prepayment);
        $bounced = $this->money(Side::Receivables, 7000);
        $back = self::get(ReverseDocument::class);
        $back->event($this->clerk, $bounced, Day::of(self::DAY), HowTakenBack::Bounced, 'no funds');
        $back->event(
            $this->clerk,
            $this->money(Side::Payables, 1200, [], [], self::DAY, DocumentKind::Payment),
            Day::of(self::DAY),
            HowTakenBack::Voided,
            'lost',
        );
        $account = fn (string $n): int => (int) $this->db()->fetchOne(
            'SELECT id FROM account WHERE company_id = ? AND number = ?',
            [$this->clerk->companyId, $n],
        );
        $draft = JournalDraft::of('USD', [
            new DraftLine($account('1000'), 41250, 41250),
            new DraftLine($account('1200'), -41250, -41250),
        ]);
        self::get(PostJournalEntry::class)->post($this->clerk, $draft, Day::of(self::DAY), 'shop cash over', true);
        $odd = [
            'prepayments_payables' => ['count' => 1, 'amount' => 40000],
            'taken_back_payables' => ['count' => 1, 'amount' => 1200],
            'unapplied_receivables' => ['count' => 1, 'amount' => 2500],
            'prepayments_receivables' => ['count' => 1, 'amount' => 30000],
            'taken_back_receivables' => ['count' => 1, 'amount' => 7000],
            'tie_out' => ['count' => 1, 'amount' => 41250],
        ];
        self::assertSame($odd, array_intersect_key($today(), $odd));
        self::assertArrayNotHasKey('prepayments_payables', $today('receivables'));
    }

    public function testVendorAndCustomerOfOneBusiness(): void
    {
        $ids = array_map(
            'intval',
            $this->db()->fetchFirstColumn('SELECT id FROM party WHERE company_id = ? AND nobody = 0 ORDER BY side', [
                $this->clerk->companyId,
            ]),
        );
        self::get(SaveParty::class)->link($this->clerk, $ids[0], $ids[1]);
        self::assertSame(
            [$ids[1], $ids[0]],
            array_map(
                'intval',
                $this->db()->fetchFirstColumn(
                    'SELECT linked_party_id FROM party WHERE company_id = ? AND nobody = 0 ORDER BY side',
                    [$this->clerk->companyId],
                ),
            ),
        );
        self::assertSame(
            ['linked'],
            self::refusedFields(fn () => self::get(SaveParty::class)->link($this->clerk, $ids[0], $ids[0])),
        );
    }

    /** Mutated files (seeded): taken whole or refused with reasons; never half saved, never a crash. */
    public function testMutatedFiles(): void
    {
        mt_srand(21);
        $good =
            "party,number,document_date,account,amount,tax_code\n".
            "V-1,%1\$dM,2026-06-01,5000,1%1\$d.00,P8\n".
            "V-1,%1\$dM,2026-06-01,5200,5.00,\n".
            "V-1,%1\$dN,2026-06-02,5000,%1\$d7.50,\n";
        $taken = $refused = 0;
        for ($n = 0; $n < 120; ++$n) {
            $csv = \sprintf($good, $n);
            for ($k = mt_rand(0, 3); $k > 0; --$k) {
                $at = mt_rand(0, \strlen($csv) - 1);
                $csv =
                    substr($csv, 0, $at).
                    ['"', ',', "\n", '9', '-', '', "\xC3", '.', 'V'][mt_rand(0, 8)].
                    substr($csv, $at + mt_rand(0, 2));
            }
            $before = $this->counts();
            $result = self::get(ImportFile::class)->import($this->clerk, 'vendor-invoices', $csv);
            if ([] === $result['errors']) {
                ++$taken;
                self::assertSame($before[0] + $result['created'], $this->counts()[0]);
            } else {
                ++$refused;
                self::assertSame($before, $this->counts(), $csv);
            }
        }
        self::assertGreaterThan(20, $taken);
        self::assertGreaterThan(20, $refused);
    }

    /** @return array{int, int, int} documents, entries, items */
    private function counts(): array
    {
        return [
            (int) $this->db()->fetchOne('SELECT COUNT(*) FROM document'),
            (int) $this->db()->fetchOne('SELECT COUNT(*) FROM journal_entry'),
            (int) $this->db()->fetchOne('SELECT COUNT(*) FROM open_item'),
        ];
    }

    /** A file and the screens give the same books. */
    public function testImportAndFormAgree(): void
    {
        self::get(ImportFile::class)->import(
            $this->clerk,
            'vendor-invoices',
            "party,number,document_date,account,amount,tax_code,cost_center\nV-1,F-1,2026-06-01,5000,123.45,P8,\n",
        );
        $this->invoice(Side::Payables, '', [
            'number' => 'F-2',
            'document_date' => '2026-06-01',
            'lines' => [['account' => '5000', 'amount' => '123.45', 'tax_code' => 'P8']],
        ]);
        $rows = $this->db()->fetchAllNumeric(
            'SELECT total, net, tax, due_date, discount_base, rate FROM document ORDER BY id',
        );
        self::assertSame($rows[0], $rows[1]);
        $lines = $this->db()->fetchAllNumeric(
            'SELECT entry_id, account_id, base, amount FROM journal_line ORDER BY entry_id, position',
        );
        self::assertSame(
            array_map(static fn (array $r): array => \array_slice($r, 1), \array_slice($lines, 0, 3)),
            array_map(static fn (array $r): array => \array_slice($r, 1), \array_slice($lines, 3)),
        );
    }

    public function testAPrepaymentIsAWarningInAProposal(): void
    {
        $this->money(Side::Payables, 40000, [], [], self::DAY, DocumentKind::Prepayment);
        $this->invoice(Side::Payables, '1000.00', ['document_date' => '2026-04-01', 'terms' => 'N30']);
        ['criteria' => $criteria] = self::get(\Nelbix\App\Payables\CriteriaReader::class)->read($this->clerk, [
            'pay_date' => self::DAY,
        ]);
        $result = self::get(\Nelbix\App\Payables\MakeProposal::class)->workOut($this->clerk, $criteria);
        self::assertSame([1, 1, 100000], [\count($result->in), \count($result->prepayments), $result->totals()['pay']]);
    }

    /** A df that tells of 20 MB left: the start refuses in one sentence, before it makes anything. */
    public function testAFullDiskIsSaidInOneSentence(): void
    {
        $folder = sys_get_temp_dir().'/nelbix-disk-'.bin2hex(random_bytes(4));
        mkdir($folder.'/bin', 0777, true);
        file_put_contents(
            $folder.'/bin/df',
            "#!/bin/sh\necho 'Filesystem 1024-blocks Used Available Capacity Mounted on'\necho 'none 204800 184320 20480 90% /'\n",
        );
        chmod($folder.'/bin/df', 0755);
        $process = new Process(['bash', \dirname(__DIR__, 2).'/nelbix', 'start'], null, [
            'NELBIX_DATA' => $folder.'/data',
            'PATH' => $folder.'/bin:'.getenv('PATH'),
        ]);
        $process->run();
        self::assertSame(1, $process->getExitCode());
        self::assertStringContainsString(
            'Only 20 MB are free where '.
                $folder.
                '/data lies; Nelbix needs 400 MB. Free some, or name another folder with NELBIX_DATA.',
            $process->getErrorOutput(),
        );
        self::assertSame([], array_diff(scandir($folder.'/data') ?: [], ['.', '..']), 'nothing was made');
        array_map('unlink', [$folder.'/bin/df']);
        array_map('rmdir', [$folder.'/bin', $folder.'/data', $folder]);
    }

    /** Pointed at a database that is somewhere else Nelbix keeps the address and starts none of its own. */
    public function testADatabaseElsewhere(): void
    {
        $data = (string) tempnam(sys_get_temp_dir(), 'nelbix-else');
        unlink($data);
        mkdir($data);
        $run = static function (string $url) use ($data): Process {
            $process = new Process(
                ['bash', \dirname(__DIR__, 2).'/nelbix', 'database'],
                null,
                ['NELBIX_DATA' => $data, 'NELBIX_DATABASE_URL' => $url, 'APP_ENV' => 'prod', 'DATABASE_URL' => false],
                null,
                120,
            );
            $process->run();

            return $process;
        };
        $here = $this->db()->getParams();
        $url = \sprintf(
            'mysql://%s:%s@localhost/%s?unix_socket=%s',
            $here['user'] ?? '',
            $here['password'] ?? '',
            $here['dbname'] ?? '',
            $here['unix_socket'] ?? '',
        );
        $found = $run($url);
        self::assertSame(0, $found->getExitCode(), $found->getErrorOutput());
        self::assertStringContainsString(
            'DATABASE_URL="'.$url.'"',
            (string) file_get_contents($data.'/nelbix.env'),
        );
        self::assertDirectoryDoesNotExist($data.'/mysql');
        self::assertSame(0600, fileperms($data.'/nelbix.env') & 0777, 'a password stands in it');
        $wrong = $run('mysql://nobody:no@127.0.0.1:1/nelbix');
        self::assertSame(1, $wrong->getExitCode());
        self::assertStringContainsString('does not answer', $wrong->getErrorOutput());
        self::assertStringContainsString('is like mysql://', $run('postgres://x')->getErrorOutput());
        (new Filesystem())->remove($data);
    }

    /** A worker lives for an hour: whatever a service remembers it can be told to forget. */
    public function testWhatAServiceRemembersItCanForget(): void
    {
        $found = 0;
        foreach (
            new \RecursiveIteratorIterator(
                new \RecursiveDirectoryIterator(\dirname(__DIR__, 2).'/src', \FilesystemIterator::SKIP_DOTS),
            ) as $file
        ) {
            \assert($file instanceof \SplFileInfo);
            $class =
                'Nelbix\\App\\'.
                strtr(substr($file->getPathname(), \strlen(\dirname(__DIR__, 2).'/src/'), -4), '/', '\\');
            if (
                'php' !== $file->getExtension()
                || !class_exists($class)
                || [] !== (new \ReflectionClass($class))->getAttributes(\Doctrine\ORM\Mapping\Entity::class)
                || [] !== (new \ReflectionClass($class))->getAttributes(Exclude::class)
            ) {
                continue;
            }
            foreach ((new \ReflectionClass($class))->getProperties() as $property) {
                if (
                    !$property->isReadOnly()
                    && !$property->isStatic()
                    && $property->getDeclaringClass()->getName() === $class
                    && 'array' === (string) $property->getType()
                ) {
                    ++$found;
                    self::assertTrue(
                        is_subclass_of($class, ResetInterface::class),
                        $class.' remembers '.$property->getName(),
                    );
                }
            }
        }
        self::assertGreaterThan(4, $found);
    }
}
