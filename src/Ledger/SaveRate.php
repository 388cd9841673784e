<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Rate;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Keeps a rate of a day. One that is there is changed with a reason, and never under what was posted with it. */
final readonly class SaveRate
{
    /** Where a rate came from, in words. */
    public const SOURCES = ['typed' => 'typed', 'file' => 'a file', 'ecb' => 'reference rates', 'feed' => 'the feed'];

    public function __construct(
        private Transaction $transaction,
        private Connection $db,
        private RateInUse $inUse,
        private History $history,
    ) {
    }

    /**
     * @param BigDecimal $rate units of $to for one $from
     * @param string $source a key of SOURCES
     * @param string|null $why a rate that is there already is another; null when nobody can be asked
     *
     * @return bool whether anything changed
     *
     * @throws Refused
     */
    public function save(
        Actor $actor,
        Day $day,
        string $from,
        string $to,
        BigDecimal $rate,
        string $source,
        ?string $why = null,
    ): bool {
        return $this->transaction->run(function () use ($actor, $day, $from, $to, $rate, $source, $why): bool {
            Currency::of($from);
            Currency::of($to);
            Rate::inRange($rate);
            if ($from === $to) {
                throw Refused::because('from', 'A currency needs no rate to itself.');
            }
            $key = ['company_id' => $actor->companyId, 'valid_on' => $day->iso(), 'from_currency' => $from];
            // of two who enter the first rate of a day the second waits here, and finds that of the first
            $mine = $this->db->executeStatement(
                <<<'SQL'
                INSERT INTO exchange_rate (company_id, valid_on, from_currency, to_currency, rate, source)
                VALUES (:company_id, :valid_on, :from_currency, :to_currency, :rate, :source)
                ON DUPLICATE KEY UPDATE id = id
                SQL
                ,
                [...$key, 'to_currency' => $to, 'rate' => (string) $rate, 'source' => $source],
            );
            if (1 === (int) $mine) {
                return true;
            }
            $there = $this->db->fetchAssociative(
                <<<'SQL'
                SELECT id, rate
                FROM exchange_rate
                WHERE company_id = :company_id AND valid_on = :valid_on AND from_currency = :from_currency AND to_currency = :to_currency
                FOR UPDATE
                SQL
                ,
                [...$key, 'to_currency' => $to],
            );
            \assert(false !== $there);
            $was = BigDecimal::of((string) $there['rate'])->stripTrailingZeros();
            if ($was->isEqualTo($rate)) {
                return false;
            }
            $this->mustBeFree($actor, $day, $from, $to, (string) $there['rate']);
            if (null === $why || '' === trim($why)) {
                throw Refused::because(
                    null === $why ? 'rate' : 'why',
                    \sprintf(
                        'There is a rate of %s to %s for %s already, %s. %s',
                        $from,
                        $to,
                        $day->long(),
                        $was,
                        null === $why
                            ? 'A second one is not taken; change it on the page of rates, with a reason.'
                            : 'Say why it is changed; the history keeps your words.',
                    ),
                    null === $why ? ProblemKind::Taken : ProblemKind::Missing,
                );
            }
            $this->db->update('exchange_rate', ['rate' => (string) $rate, 'source' => $source], ['id' => $there['id']]);
            $this->history->note(
                $actor,
                'exchange_rate',
                (int) $there['id'],
                'rate changed',
                \sprintf(
                    '%s to %s of %s from %s to %s: %s',
                    $from,
                    $to,
                    $day->iso(),
                    $was,
                    $rate->stripTrailingZeros(),
                    trim($why),
                ),
            );

            return true;
        });
    }

    /** @throws Refused */
    private function mustBeFree(Actor $actor, Day $day, string $from, string $to, string $rate): void
    {
        $next = $this->db->fetchOne(
            <<<'SQL'
            SELECT MIN(valid_on)
            FROM exchange_rate
            WHERE company_id = ? AND from_currency = ? AND to_currency = ? AND valid_on > ?
            SQL
            ,
            [$actor->companyId, $from, $to, $day->iso()],
        );
        $posted = $this->inUse->by($actor->companyId, $from, $rate, $day, \is_string($next) ? Day::of($next) : null);
        if (null !== $posted) {
            throw Refused::because(
                'rate',
                \sprintf(
                    'The rate of %s was used by %s, which keeps it; enter a rate for a later day instead.',
                    $day->long(),
                    $posted,
                ),
                ProblemKind::Taken,
            );
        }
    }
}
