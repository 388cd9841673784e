<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Rates\EcbRates;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Rate;
use Nelbix\Core\Refused;

/**
 * Takes reference rates in: days of units for one euro become rates into the company's currency, by way of the euro. What is there already
 * stays as it is and is counted.
 */
final readonly class TakeRates
{
    private const MOST_DAYS = 400;

    public function __construct(
        private Transaction $transaction,
        private Connection $db,
        private SaveRate $saveRate,
        private History $history,
    ) {
    }

    /**
     * @param string $bytes of a file that EcbRates reads
     * @param string $source a key of SaveRate::SOURCES
     *
     * @return array{days: int, new: int, same: int, others: list<string>} others name what is there already with another rate and was kept
     *
     * @throws Refused
     */
    public function take(Actor $actor, string $bytes, string $source): array
    {
        $days = EcbRates::read($bytes);
        if (\count($days) > self::MOST_DAYS) {
            throw Refused::because(
                'file',
                \sprintf('The file has %d days; at most %d are taken at once.', \count($days), self::MOST_DAYS),
            );
        }

        return $this->transaction->run(function () use ($actor, $days, $source): array {
            $taken = ['days' => \count($days), 'new' => 0, 'same' => 0, 'others' => []];
            foreach ($days as $iso => $units) {
                $rates = Rate::into($actor->baseCurrency, 'EUR', $units);
                if ([] === $rates) {
                    throw Refused::because(
                        'file',
                        \sprintf(
                            'The file has no rate of %s on %s, so nothing can be worked out.',
                            $actor->baseCurrency,
                            $iso,
                        ),
                    );
                }
                $there = $this->there($actor, $iso);
                foreach ($rates as $currency => $rate) {
                    // a currency that is no more, of an old file
                    if (!Currency::isKnown((string) $currency)) {
                        continue;
                    }
                    if (isset($there[$currency])) {
                        if ($rate->isEqualTo($there[$currency])) {
                            ++$taken['same'];
                        } else {
                            $taken['others'][] = $currency.' of '.$iso;
                        }
                        continue;
                    }
                    // somebody may have entered it in the meantime
                    $isNew = $this->saveRate->save(
                        $actor,
                        Day::of((string) $iso),
                        (string) $currency,
                        $actor->baseCurrency,
                        $rate,
                        $source,
                    );
                    ++$taken[$isNew ? 'new' : 'same'];
                }
            }
            if ($taken['new'] > 0) {
                $this->history->note(
                    $actor,
                    'company',
                    $actor->companyId,
                    \sprintf('took %d exchange rates in', $taken['new']),
                );
            }

            return $taken;
        });
    }

    /** @return array<string, string> rate by currency, of one day */
    private function there(Actor $actor, string $iso): array
    {
        return array_map(
            'strval',
            $this->db->fetchAllKeyValue(
                'SELECT from_currency, rate FROM exchange_rate WHERE company_id = ? AND to_currency = ? AND valid_on = ?',
                [$actor->companyId, $actor->baseCurrency, $iso],
            ),
        );
    }
}
