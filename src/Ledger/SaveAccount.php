<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\RecordCheck;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/** Adds or changes an account of the chart. What is posted on keeps its type and role; retired accounts leave the pickers. */
final readonly class SaveAccount
{
    public const TYPES = ['asset', 'liability', 'equity', 'income', 'expense'];

    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private Chart $chart,
        private History $history,
        private AccountInUse $inUse,
    ) {
    }

    /**
     * @param array<mixed> $raw number, name, type, role, currency, retired
     *
     * @throws Refused with every problem
     */
    public function save(Actor $actor, array $raw, ?int $id = null): int
    {
        return $this->transaction->run(function () use ($actor, $raw, $id): int {
            $problems = new ProblemList();
            $text = (new Fields($raw))->text(...);
            $account = null === $id ? null : $this->entities->find(Account::class, $id, LockMode::PESSIMISTIC_WRITE);
            if (null !== $id && (null === $account || $account->companyId !== $actor->companyId)) {
                throw Refused::because('', 'There is no such account in this company.', ProblemKind::Unknown);
            }
            $problems->attempt(
                fn () => null === $account
                    ? RecordCheck::code($this->entities, Account::class, $actor, $text('number'), 'number')
                    : null,
            );
            $problems->attempt(static fn () => RecordCheck::name($text('name'), 120));
            if (!\in_array($text('type'), self::TYPES, true)) {
                $problems->add('type', 'The type is asset, liability, equity, income or expense.');
            }
            $role = '' === $text('role') ? null : AccountRole::tryFrom($text('role'));
            if ('' !== $text('role') && null === $role) {
                $problems->add(
                    'role',
                    \sprintf(
                        '“%s” is not a role; known are %s.',
                        mb_strimwidth($text('role'), 0, 30, '…'),
                        implode(', ', array_column(AccountRole::cases(), 'value')),
                    ),
                );
            }
            $other =
                null === $role || $role->mayRepeat()
                    ? null
                    : $this->entities
                        ->getRepository(Account::class)
                        ->findOneBy(['companyId' => $actor->companyId, 'role' => $role]);
            if (null !== $other && $other->id() !== $id) {
                $problems->add(
                    'role',
                    \sprintf(
                        'Account %s has the role %s already; a company has one.',
                        $other->number,
                        str_replace('_', ' ', $role->value ?? ''),
                    ),
                );
            }
            if ('' !== $text('currency') && 1 !== preg_match('/\A[A-Z]{3}\z/', $text('currency'))) {
                $problems->add('currency', 'A currency is three capital letters such as USD.');
            }
            $retired = RecordCheck::yes($text('retired'));
            if (null !== $account) {
                $posted =
                    false !==
                    $this->entities
                        ->getConnection()
                        ->fetchOne('SELECT 1 FROM journal_line WHERE account_id = ? LIMIT 1', [$id]);
                foreach (
                    ['type' => $account->type !== $text('type'), 'role' => $account->role !== $role] as $field => $changed
                ) {
                    if ($posted && $changed) {
                        $problems->add(
                            $field,
                            \sprintf(
                                'Entries stand on %s already, so its %s stays; add another account instead.',
                                $account->number,
                                $field,
                            ),
                        );
                    }
                }
                if (
                    $retired
                    && null !== $account->role
                    && (!$account->role->mayRepeat() || ($account->role->isControl() && $this->isNeeded($actor, $account)))
                ) {
                    $problems->add(
                        'retired',
                        \sprintf(
                            '%s has the role %s, which Nelbix posts to; it cannot be retired.',
                            $account->number,
                            str_replace('_', ' ', $account->role->value),
                        ),
                    );
                }
            }
            $problems->refuse();
            $before = null === $account ? [] : self::values($account);
            $account ??= new Account($actor->companyId, $text('number'), $text('name'), $text('type'));
            $account->name = $text('name');
            $account->type = $text('type');
            $account->role = $role;
            $account->currency = '' === $text('currency') ? null : $text('currency');
            $account->retired = $retired;
            $this->entities->persist($account);
            $this->entities->flush();
            $this->chart->reset();
            $this->history->change($actor, 'accounts', $account->id(), $before, self::values($account));

            return $account->id();
        });
    }

    /** A control account that is the company's own or a party's. */
    private function isNeeded(Actor $actor, Account $account): bool
    {
        return null !== $account->role
            && ($this->chart->role($actor->companyId, $account->role) === $account->id()
                || $this->inUse->byParty($account->id()));
    }

    /** @return array<string, string> */
    private static function values(Account $a): array
    {
        return [
            'name' => $a->name,
            'type' => $a->type,
            'role' => str_replace('_', ' ', $a->role->value ?? ''),
            'currency' => $a->currency ?? '',
            'retired' => $a->retired ? 'yes' : 'no',
        ];
    }
}
