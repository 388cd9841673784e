<?php

declare(strict_types=1);

use Doctrine\DBAL\Connection;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Kernel;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\People\Presences;
use Nelbix\App\People\User;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Setup\NewCompany\CreateCompany;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

require __DIR__.'/../config/bootstrap.php';

/** A company of its own on the test database, which is emptied before and after; and what bare SQL is measured with. */
final class Bench
{
    public readonly Connection $db;
    public readonly EntityManagerInterface $em;
    public readonly Actor $actor;
    public readonly int $companyId;

    /** @var array<string, list<int>> by side */
    public array $parties = [];

    private readonly Psr\Container\ContainerInterface $container;

    /** @param string|null $standing the code of a company that is there; null empties everything and makes one */
    public function __construct(int $parties = 200, ?string $standing = null)
    {
        ini_set('memory_limit', '1G');
        $kernel = new Kernel('test', false);
        $kernel->boot();
        $container = $kernel->getContainer()->get('test.service_container');
        assert($container instanceof Psr\Container\ContainerInterface);
        $this->container = $container;
        $this->em = $this->get(EntityManagerInterface::class);
        $this->db = $this->em->getConnection();
        if (null === $standing) {
            $this->clear();
            $this->get(CreateCompany::class)->create('BENCH', 'Bench', 'USD', Day::of('2026-06-15'));
        }
        $company =
            $this->em->getRepository(Company::class)->findOneBy(['code' => $standing ?? 'BENCH']) ??
            throw new RuntimeException('There is no company '.$standing);
        $company->booksDay = Day::of('2026-06-15');
        $this->em->flush();
        $this->companyId = $company->id();
        $this->actor = Actor::of($company, $this->get(CreateCompany::class)->consoleUser());
        foreach (Side::cases() as $side) {
            for ($n = 1; $n <= $parties; ++$n) {
                $this->parties[$side->value][] = $this->get(SaveParty::class)
                    ->save($this->actor, $side, [
                        'code' => sprintf('P-%04d', $n),
                        'name' => 'Party '.$n,
                        'terms' => '2-10-N30',
                        'default_account' => Side::Payables === $side ? '5000' : '4000',
                    ])
                    ->id();
                if (0 === $n % 50) {
                    $this->em->clear();
                }
            }
        }
        $this->em->clear();
    }

    /**
     * @template T of object
     *
     * @param class-string<T> $class
     *
     * @return T
     */
    public function get(string $class): object
    {
        $service = $this->container->get($class);
        assert($service instanceof $class);

        return $service;
    }

    public function clear(): void
    {
        if (!str_ends_with((string) $this->db->getDatabase(), '_test')) {
            throw new RuntimeException('The bench empties its database; it runs on the test database only.');
        }
        $this->db->executeStatement('SET FOREIGN_KEY_CHECKS = 0');
        foreach (array_diff($this->db->fetchFirstColumn('SHOW TABLES'), ['doctrine_migration_versions']) as $table) {
            $this->db->executeStatement('TRUNCATE TABLE '.$table);
        }
        $this->db->executeStatement('SET FOREIGN_KEY_CHECKS = 1');
    }

    /** Seconds that an action takes. */
    public static function time(callable $action): float
    {
        $start = hrtime(true);
        $action();

        return (hrtime(true) - $start) / 1e9;
    }

    /** The best of some tries. */
    public static function best(callable $action, int $tries = 5): float
    {
        return min(array_map(static fn (): float => self::time($action), range(1, $tries)));
    }

    /**
     * Copies rows that are there into tables like theirs, 500 a statement: what bare SQL needs for the same.
     *
     * @param array<string, string> $tables table => where
     *
     * @return array{rows: int, seconds: float}
     */
    public function copied(array $tables): array
    {
        $rows = 0;
        $seconds = 0.0;
        foreach ($tables as $table => $where) {
            $columns = implode(
                ', ',
                array_map(
                    static fn (string $c): string => "`$c`",
                    $this->db->fetchFirstColumn(
                        <<<'SQL'
                        SELECT column_name
                        FROM information_schema.columns
                        WHERE table_schema = DATABASE() AND table_name = ? AND generation_expression IS NULL
                        ORDER BY ordinal_position
                        SQL
                        ,
                        [$table],
                    ),
                ),
            );
            $data = $this->db->fetchAllNumeric("SELECT $columns FROM $table WHERE $where");
            if ([] === $data) {
                continue;
            }
            $this->db->executeStatement("CREATE TABLE bench_copy LIKE $table");
            $rows += count($data);
            $seconds += self::time(function () use ($data, $columns): void {
                $this->db->beginTransaction();
                foreach (array_chunk($data, 500) as $chunk) {
                    $this->db->executeStatement(
                        "INSERT INTO bench_copy ($columns) VALUES ".
                            implode(
                                ',',
                                array_fill(
                                    0,
                                    count($chunk),
                                    '('.implode(',', array_fill(0, count($chunk[0]), '?')).')',
                                ),
                            ),
                        array_merge(...$chunk),
                    );
                }
                $this->db->commit();
            });
            $this->db->executeStatement('DROP TABLE bench_copy');
        }

        return ['rows' => $rows, 'seconds' => $seconds];
    }

    /**
     * The same, a transaction for each document and a statement for each of its tables: what bare SQL needs when invoices come one by
     * one.
     *
     * @param array<string, array{where: string, of: string}> $tables where, and the SQL that says whose document a row t is
     *
     * @return float seconds
     */
    public function copiedOneByOne(array $tables): float
    {
        $documents = [];
        foreach ($tables as $table => ['where' => $where, 'of' => $of]) {
            foreach (
                $this->db->fetchAllAssociative("SELECT $of AS its_document, t.* FROM $table t WHERE $where") as $row
            ) {
                $its = (int) array_shift($row);
                $documents[$its][$table][] = array_diff_key($row, ['is_open' => 1, 'waits' => 1]);
            }
            $this->db->executeStatement("CREATE TABLE bench_$table LIKE $table");
        }
        $seconds = self::time(function () use ($documents): void {
            foreach ($documents as $rowsOf) {
                $this->db->beginTransaction();
                foreach ($rowsOf as $table => $rows) {
                    $columns = implode(', ', array_map(static fn (string $c): string => "`$c`", array_keys($rows[0])));
                    $marks = '('.implode(',', array_fill(0, count($rows[0]), '?')).')';
                    $this->db->executeStatement(
                        "INSERT INTO bench_$table ($columns) VALUES ".
                            implode(',', array_fill(0, count($rows), $marks)),
                        array_merge(...array_map(array_values(...), $rows)),
                    );
                }
                $this->db->commit();
            }
        });
        foreach (array_keys($tables) as $table) {
            $this->db->executeStatement('DROP TABLE bench_'.$table);
        }

        return $seconds;
    }

    /**
     * Open items with their documents, straight into the tables.
     *
     * @param callable(int): array{side: Side, party: int, posted: Day, due: Day, amount: int} $of
     */
    public function items(int $count, callable $of): void
    {
        $accounts = [
            Side::Payables->value => (int) $this->db->fetchOne(
                "SELECT id FROM account WHERE company_id = ? AND role = 'payables'",
                [$this->companyId],
            ),
            Side::Receivables->value => (int) $this->db->fetchOne(
                "SELECT id FROM account WHERE company_id = ? AND role = 'receivables'",
                [$this->companyId],
            ),
        ];
        // sample rows leave out what has no meaning for them
        $this->db->executeStatement("SET SESSION sql_mode = ''");
        $next = (int) $this->db->fetchOne('SELECT COALESCE(MAX(id), 0) + 1 FROM document');
        $this->db->executeStatement('SET FOREIGN_KEY_CHECKS = 0');
        for ($n = 0; $n < $count; $n += 1000) {
            $documents = $items = [];
            for ($k = $n; $k < min($count, $n + 1000); ++$k) {
                ['side' => $side, 'party' => $party, 'posted' => $posted, 'due' => $due, 'amount' => $amount] = $of($k);
                $kind = $amount > 0 ? 'invoice' : 'credit_note';
                $documents[] = sprintf(
                    "(%d,%d,'%s','%s','posted',%d,'2026-06-01 08:00:00','B-%d','T-%d','T%d',%d,'%s','%s','%s','USD',%d,%d,%d)",
                    $next + $k,
                    $this->companyId,
                    $side->value,
                    $kind,
                    $this->actor->userId,
                    $next + $k,
                    $next + $k,
                    $next + $k,
                    $party,
                    $posted,
                    $posted,
                    $due,
                    abs($amount),
                    abs($amount),
                    abs($amount),
                );
                $items[] = sprintf(
                    "(%d,'%s',%d,%d,1,'%s','B-%d',%d,'USD',%d,%d,%d,%d,%d,0,'%s','%s','%s','%s')",
                    $this->companyId,
                    $side->value,
                    $party,
                    $next + $k,
                    $kind,
                    $next + $k,
                    $accounts[$side->value],
                    $amount,
                    $amount,
                    $amount,
                    $amount,
                    max(0, $amount),
                    $posted,
                    $posted,
                    $due,
                    $posted,
                );
            }
            $this->db->executeStatement(
                <<<'SQL'
                INSERT INTO document (id, company_id, side, kind, state, created_by_id, created_at, number, their_number, their_key,
                    party_id, document_date, posting_date, due_date, currency, net, total, total_base)
                VALUES

                SQL.implode(',', $documents),
            );
            $this->db->executeStatement(
                <<<'SQL'
                INSERT INTO open_item (company_id, side, party_id, document_id, part, kind, number, account_id, currency, original,
                    original_base, open, open_base, discount_base, grace_days, document_date, posting_date, due_date, last_moved_on)
                VALUES

                SQL.implode(',', $items),
            );
        }
        $this->db->executeStatement('SET FOREIGN_KEY_CHECKS = 1');
        $this->db->fetchAllAssociative('ANALYZE TABLE document, open_item');
    }

    /** Seconds that the server needs for a page, the best of some tries, as the company's controller sees it. */
    public function page(string $path): float
    {
        return $this->look($path)['seconds'];
    }

    /** A controller of the company; nobody signs in as the console. */
    private function looker(): int
    {
        $this->db->executeStatement(
            "INSERT INTO app_user (username, name, password_hash) SELECT 'looker', 'Looker', 'x' FROM DUAL ".
                "WHERE NOT EXISTS (SELECT 1 FROM app_user WHERE username = 'looker')",
        );
        $id = (int) $this->db->fetchOne("SELECT id FROM app_user WHERE username = 'looker'");
        $this->db->executeStatement(
            "INSERT INTO membership (user_id, company_id, role, duties_reason) SELECT ?, ?, 'controller', '' FROM DUAL ".
                'WHERE NOT EXISTS (SELECT 1 FROM membership WHERE user_id = ? AND company_id = ?)',
            [$id, $this->companyId, $id, $this->companyId],
        );

        return $id;
    }

    /** @return array{seconds: float, queries: int, megabytes: int} what a page takes, the best of some tries */
    public function look(string $path, int $tries = 3): array
    {
        $client = $this->container->get('test.client');
        assert($client instanceof Symfony\Bundle\FrameworkBundle\KernelBrowser);
        $client->disableReboot();
        $looker = $this->looker();
        $client->loginUser($this->em->find(User::class, $looker) ?? throw new LogicException(), 'main', [
            'presence' => $this->get(Presences::class)->begin($looker, null, true),
        ]);
        $get = static fn () => $client->request('GET', $path);
        memory_reset_peak_usage();
        $before = memory_get_usage();
        $first = self::time($get);
        $peak = memory_get_peak_usage() - $before;
        $count = fn (): int => (int) ($this->db->fetchAssociative("SHOW SESSION STATUS LIKE 'Com_select'")['Value'] ??
            0);
        $asked = $count();
        $seconds = min($first, self::time($get));
        $asked = $count() - $asked;
        if (200 !== $client->getResponse()->getStatusCode()) {
            throw new RuntimeException($path.' answered '.$client->getResponse()->getStatusCode());
        }

        return [
            'seconds' => $tries < 3 ? $seconds : min($seconds, self::best($get, $tries - 2)),
            'queries' => $asked,
            'megabytes' => $peak >> 20,
        ];
    }

    public static function say(string $what, float $ours, string $bareWhat, float $bare): void
    {
        printf(
            "%s: %.2f s; %s: %.2f s; ratio %.1f; peak memory %d MB\n",
            $what,
            $ours,
            $bareWhat,
            $bare,
            $ours / max(0.0001, $bare),
            memory_get_peak_usage(true) >> 20,
        );
    }
}
