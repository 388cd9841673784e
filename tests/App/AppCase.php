<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use DAMA\DoctrineTestBundle\Doctrine\DBAL\StaticDriver;
use Doctrine\DBAL\Connection;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Banking\PrintChecks;
use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Close\Aging\AgingCriteria;
use Nelbix\App\Close\Aging\AgingLine;
use Nelbix\App\Close\Aging\AgingQuery;
use Nelbix\App\Close\Verify;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\App\Money\MoneyInput;
use Nelbix\App\Money\PostMoney;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\DecideProposal;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\App\Payables\StartRun;
use Nelbix\App\People\Membership;
use Nelbix\App\People\Role;
use Nelbix\App\People\User;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Setup\NewCompany\CreateCompany;
use Nelbix\App\Work\JobState;
use Nelbix\App\Work\Worker;
use Nelbix\Core\Aging\Bucketing;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;
use Symfony\Bundle\FrameworkBundle\Test\WebTestCase;
use Symfony\Component\DomCrawler\Field\FormField;
use Symfony\Component\DomCrawler\Form;

/** A company on the real database, rolled back after each test; whatever a test posts must pass the seven checks. */
abstract class AppCase extends WebTestCase
{
    protected const DAY = '2026-06-15';

    /** Whether a class begins with the company TEST, or with a database in which nothing is. */
    protected const BEGINS_WITH_A_COMPANY = true;

    /** Whether the company is there, committed: it is made once a process, and each test changes it in a transaction of its own. */
    private static ?bool $standing = null;

    protected Actor $clerk;
    protected Actor $approver;
    protected Actor $buyer;
    protected Actor $receiver;
    protected string $code = 'TEST';

    public static function setUpBeforeClass(): void
    {
        parent::setUpBeforeClass();
        if (self::$standing === static::BEGINS_WITH_A_COMPANY) {
            return;
        }
        // on a connection of its own: the tests' one is in their transaction already
        StaticDriver::setKeepStaticConnections(false);
        self::emptyAll();
        self::$standing = static::BEGINS_WITH_A_COMPANY;
        if (true === self::$standing) {
            self::create('TEST');
        }
        self::ensureKernelShutdown();
        StaticDriver::setKeepStaticConnections(true);
    }

    /** Outside of any test's transaction: what is there is gone, whoever committed it. */
    protected static function emptyAll(): void
    {
        $db = self::get(EntityManagerInterface::class)->getConnection();
        $db->executeStatement('SET FOREIGN_KEY_CHECKS = 0');
        foreach ($db->fetchFirstColumn('SHOW TABLES') as $table) {
            if ('doctrine_migration_versions' !== $table) {
                $db->executeStatement('TRUNCATE TABLE '.$table);
            }
        }
        $db->executeStatement('SET FOREIGN_KEY_CHECKS = 1');
        self::$standing = false;
    }

    protected function setUp(): void
    {
        parent::setUp();
        $this->makeCompany($this->code);
    }

    protected function tearDown(): void
    {
        foreach ($this->db()->fetchFirstColumn('SELECT id FROM company') as $id) {
            self::assertSame(
                [],
                array_merge(...array_values(self::get(Verify::class)->of((int) $id))),
                'what must always hold',
            );
        }
        parent::tearDown();
    }

    /**
     * @template T of object
     *
     * @param class-string<T> $class
     *
     * @return T
     */
    protected static function get(string $class): object
    {
        $service = static::getContainer()->get($class);
        \assert($service instanceof $class);

        return $service;
    }

    protected function db(): Connection
    {
        return self::get(EntityManagerInterface::class)->getConnection();
    }

    protected function makeCompany(string $code): void
    {
        if (true !== self::$standing || 'TEST' !== $code) {
            self::create($code);
        }
        $em = self::get(EntityManagerInterface::class);
        $company = $em->getRepository(Company::class)->findOneBy(['code' => $code]) ?? self::fail();
        $actor = static fn (string $role): Actor => Actor::of(
            $company,
            $em->getRepository(User::class)->findOneBy(['username' => $role]) ?? self::fail($role),
        );
        $this->clerk = $actor('controller');
        $this->approver = $actor('approver');
        $this->buyer = $actor('buyer');
        $this->receiver = $actor('receiver');
    }

    /** A company with somebody of each role, a vendor and a customer. */
    private static function create(string $code): void
    {
        self::get(CreateCompany::class)->create($code, 'Test '.$code, 'USD', Day::of(self::DAY));
        $em = self::get(EntityManagerInterface::class);
        $company = $em->getRepository(Company::class)->findOneBy(['code' => $code]) ?? self::fail();
        $company->booksDay = Day::of(self::DAY);
        foreach (['payables', 'receivables', 'approver', 'controller', 'auditor', 'receiver', 'buyer'] as $role) {
            $user =
                $em->getRepository(User::class)->findOneBy(['username' => $role]) ?? new User($role, ucfirst($role));
            $user->passwordHash = 'x';
            $em->persist($user);
            $em->persist($membership = new Membership($user, $company, Role::from($role)));
            $user->memberships->add($membership);
        }
        $em->flush();
        $controller = Actor::of(
            $company,
            $em->getRepository(User::class)->findOneBy(['username' => 'controller']) ?? self::fail(),
        );
        foreach (
            [
                [Side::Payables, 'V-1', 'Fenwick Timber', '5000'],
                [Side::Receivables, 'C-1', 'Gannet Sailing School', '4000'],
            ] as [$side, $party, $name, $account]
        ) {
            self::get(SaveParty::class)->save($controller, $side, [
                'code' => $party,
                'name' => $name,
                'terms' => '2-10-N30',
                'default_account' => $account,
            ]);
        }
    }

    /** @param array<string, mixed> $more */
    protected function invoice(Side $side, string $amount, array $more = []): int
    {
        static $n = 0;
        $raw = [
            'party' => Side::Payables === $side ? 'V-1' : 'C-1',
            'number' => Side::Payables === $side ? 'N-'.++$n : '',
            'document_date' => '2026-06-10',
            'lines' => [['account' => '', 'amount' => $amount]],
            ...$more,
        ];

        return self::get(PostInvoice::class)->post(
            $this->clerk,
            self::get(InvoiceReader::class)->read($this->clerk, $side, $raw, true),
        );
    }

    /**
     * Everything due today, proposed, approved and printed from the account's first book: ready to be posted.
     *
     * @return int the run
     */
    protected function printedRun(): int
    {
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = self::get(
            CriteriaReader::class,
        )->read($this->clerk, ['pay_date' => self::DAY]);
        $id = self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, $method);
        self::get(DecideProposal::class)->decide($this->approver, $id, true);
        $book =
            $this->db()->fetchAssociative(
                'SELECT id, next_number FROM check_book WHERE bank_account_id = ? ORDER BY id LIMIT 1',
                [$bank],
            ) ?:
            self::fail();
        self::get(PrintChecks::class)->print($this->clerk, $id, (int) $book['id'], (int) $book['next_number']);
        self::get(PrintChecks::class)->sayWhatPrinted($this->clerk, $id, [], '');

        return $id;
    }

    /** Starts an approved run and posts it to its end. */
    protected function postRun(int $proposalId): int
    {
        $job = self::get(Worker::class)->finish(self::get(StartRun::class)->start($this->clerk, $proposalId));
        if (JobState::Failed === $job->state) {
            throw Refused::because('', $job->said);
        }

        return $job->done;
    }

    protected function itemOf(int $documentId): int
    {
        return (int) $this->db()->fetchOne('SELECT id FROM open_item WHERE document_id = ? ORDER BY part', [
            $documentId,
        ]);
    }

    protected function open(int $itemId): int
    {
        return (int) $this->db()->fetchOne('SELECT open FROM open_item WHERE id = ?', [$itemId]);
    }

    /**
     * @param list<PlacementRequest> $placements
     * @param list<AdjustmentRequest> $adjustments
     */
    protected function money(
        Side $side,
        int $amount,
        array $placements = [],
        array $adjustments = [],
        string $date = self::DAY,
        DocumentKind $kind = DocumentKind::Receipt,
        string $currency = 'USD',
    ): int {
        $party = (int) $this->db()->fetchOne('SELECT id FROM party WHERE company_id = ? AND code = ?', [
            $this->clerk->companyId,
            Side::Payables === $side ? 'V-1' : 'C-1',
        ]);
        $bank = (int) $this->db()->fetchOne('SELECT id FROM bank_account WHERE company_id = ?', [
            $this->clerk->companyId,
        ]);

        return self::get(PostMoney::class)->post(
            $this->clerk,
            new MoneyInput(
                $side,
                $kind,
                $party,
                $bank,
                Day::of($date),
                $currency,
                $amount,
                'test',
                'transfer',
                $placements,
                $adjustments,
            ),
        );
    }

    /** @return list<AgingLine> the parties of a side as of a day, in base currency, as the company shows its credits */
    protected function aged(Side $side, Day $day, Bucketing $bucketing = new Bucketing([30, 60, 90])): array
    {
        $query = self::get(AgingQuery::class);

        return $query->lines(
            new AgingCriteria(
                $this->clerk->companyId,
                $side,
                $day,
                $bucketing,
                credits: $query->usual($this->clerk->companyId),
            ),
        );
    }

    protected function agedInAll(Side $side, Day $day): int
    {
        return array_sum(array_map(static fn (AgingLine $l): int => $l->row->total(), $this->aged($side, $day)));
    }

    /** What the control accounts of a side hold. */
    protected function controlled(Side $side, Day $day): int
    {
        return array_sum(
            array_column(self::get(AgingQuery::class)->controls($this->clerk->companyId, $side, $day), 'base'),
        );
    }

    /** What an account held at the end of a day, debit positive. */
    protected function heldOn(string $account, string $day): int
    {
        return (int) $this->db()->fetchOne(
            <<<'SQL'
            SELECT COALESCE(SUM(l.base), 0)
            FROM journal_line l
            JOIN account a ON a.id = l.account_id
            WHERE a.company_id = ? AND a.number = ? AND l.posting_date <= ?
            SQL
            ,
            [$this->clerk->companyId, $account, $day],
        );
    }

    /**
     * What a door says: the refusal, or "done".
     *
     * @param callable(): mixed $do
     */
    protected static function said(callable $do): string
    {
        try {
            $do();
        } catch (Refused $e) {
            return $e->getMessage();
        }

        return 'done';
    }

    /** The balance of an account by number, ledger sign, minor units. */
    protected function balance(string $account): int
    {
        return (int) $this->db()->fetchOne(
            <<<'SQL'
            SELECT COALESCE(SUM(l.base), 0)
            FROM journal_line l
            JOIN account a ON a.id = l.account_id
            WHERE a.company_id = ? AND a.number = ?
            SQL
            ,
            [$this->clerk->companyId, $account],
        );
    }

    /** @return list<string> the fields that were named */
    protected static function refusedFields(callable $action): array
    {
        try {
            $action();
        } catch (Refused $e) {
            self::assertNotSame('', $e->getMessage());

            return array_map(static fn ($p): string => $p->field, $e->problems);
        }
        self::fail('It was accepted.');
    }

    /** What stands in a field of a form. */
    protected static function value(Form $form, string $name): mixed
    {
        $field = $form->get($name);

        return $field instanceof FormField ? $field->getValue() : self::fail($name.' is more than one field');
    }
}
