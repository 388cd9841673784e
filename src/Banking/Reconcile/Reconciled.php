<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Reconcile;

use Nelbix\Core\Calendar\Day;
use Symfony\Component\DependencyInjection\Attribute\Exclude;

/**
 * A bank account as of a day: ledger = bank + on the way − lines that wait + what the statements did not begin with + what is missing
 * between them. Minor units of the account's currency.
 *
 * @phpstan-type OnTheWay list<array{number: string, day: string, party: string, amount: int, check: string}>
 * @phpstan-type WaitingLines list<array{id: int, day: string, text: string, amount: int}>
 */
#[Exclude]
final readonly class Reconciled
{
    /**
     * @param Day $reach through which there are statements
     * @param OnTheWay $onTheWay in the ledger and not at the bank yet
     * @param WaitingLines $waiting at the bank and not in the ledger yet
     * @param int $carried what the ledger had more than the bank when the statements began
     * @param int $missing what is missing between statements, in ledger sign
     */
    public function __construct(
        public Day $day,
        public Day $reach,
        public int $bank,
        public int $ledger,
        public array $onTheWay,
        public array $waiting,
        public int $carried,
        public int $missing,
    ) {
    }

    /** @return int what is out to vendors and others, below zero */
    public function payments(): int
    {
        return array_sum(array_filter(array_column($this->onTheWay, 'amount'), static fn (int $a): bool => $a < 0));
    }

    public function deposits(): int
    {
        return array_sum(array_filter(array_column($this->onTheWay, 'amount'), static fn (int $a): bool => $a > 0));
    }

    public function linesWaiting(): int
    {
        return array_sum(array_column($this->waiting, 'amount'));
    }

    /** What the ledger is when everything is counted; it equals the ledger always, or there is a defect. */
    public function counted(): int
    {
        return $this->bank +
            $this->payments() +
            $this->deposits() -
            $this->linesWaiting() +
            $this->carried +
            $this->missing;
    }

    /** What has no better name than its line: with none of it the account is reconciled. */
    public function named(): int
    {
        return \count($this->waiting) + (0 === $this->carried ? 0 : 1) + (0 === $this->missing ? 0 : 1);
    }

    /** @return array<string, mixed> everything, to be frozen */
    public function frozen(): array
    {
        return [
            'bank' => $this->bank,
            'ledger' => $this->ledger,
            'on_the_way' => $this->onTheWay,
            'waiting' => $this->waiting,
            'carried' => $this->carried,
            'missing' => $this->missing,
        ];
    }

    /** @param array<string, mixed> $frozen */
    public static function thawed(Day $day, array $frozen): self
    {
        /** @var array{bank: int, ledger: int, on_the_way: OnTheWay, waiting: WaitingLines, carried: int, missing: int} $frozen */
        return new self(
            $day,
            $day,
            $frozen['bank'],
            $frozen['ledger'],
            $frozen['on_the_way'],
            $frozen['waiting'],
            $frozen['carried'],
            $frozen['missing'],
        );
    }

    /** By which a page knows whether it is still what somebody saw. */
    public function digest(): string
    {
        return hash('sha256', json_encode([$this->day->iso(), $this->frozen()], \JSON_THROW_ON_ERROR));
    }
}
