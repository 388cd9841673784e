<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;

/**
 * The one place that decides who may approve what: somebody else than those who had a hand in it, up to their own limit. Persons are
 * compared, never roles.
 */
final readonly class SomebodyElse
{
    public function __construct(private Connection $db, private Substitutes $substitutes)
    {
    }

    /** Remembers that a person had a hand in a record: who made or changed it does not approve it. */
    public function hadAHand(Actor $actor, string $subject, int $id): void
    {
        $this->db->executeStatement(
            'INSERT IGNORE INTO hand_in (company_id, subject, subject_id, user_id) VALUES (?, ?, ?, ?)',
            [$actor->companyId, $subject, $id, $actor->userId],
        );
    }

    public function has(int $companyId, string $subject, int $id, int $userId): bool
    {
        return false !==
            $this->db->fetchOne(
                'SELECT 1 FROM hand_in WHERE company_id = ? AND subject = ? AND subject_id = ? AND user_id = ?',
                [$companyId, $subject, $id, $userId],
            );
    }

    /**
     * @param string $said what the person is told who may not
     *
     * @throws Refused for a person who had a hand in it
     */
    public function mustBe(Actor $actor, string $subject, int $id, ?int $madeBy, string $said): void
    {
        if ($madeBy === $actor->userId || $this->has($actor->companyId, $subject, $id, $actor->userId)) {
            throw Refused::because('', $said);
        }
    }

    /**
     * @param int $amount base currency, minor units
     * @param string $what such as "The run"
     *
     * @throws Refused over the person's limit; exactly at it is within
     */
    public function within(Actor $actor, int $amount, string $what): void
    {
        $limits = $this->db->fetchFirstColumn(
            'SELECT approval_limit FROM membership WHERE user_id = ? AND company_id = ?',
            [$actor->userId, $actor->companyId],
        );
        // a person with two roles is one person, and so is one who stands in for another: a limit set on either of them holds
        $limits = [...$limits, ...$this->substitutes->limitsOf($actor->userId, $actor->companyId)];
        $limits = array_map('intval', array_filter($limits, is_numeric(...)));
        if ([] !== $limits && $amount > min($limits)) {
            throw Refused::because(
                '',
                \sprintf(
                    '%s comes to %s %s, you may approve up to %s; somebody with a higher limit must approve it.',
                    $what,
                    Money::of($amount, $actor->baseCurrency)->decimal(),
                    $actor->baseCurrency,
                    Money::of(min($limits), $actor->baseCurrency)->decimal(),
                ),
            );
        }
    }
}
