<?php

declare(strict_types=1);

namespace Nelbix\Demo;

use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;

/**
 * What the three companies sell each other: the same invoice under the same number in the books of both, paid on the same day. Each
 * company is played on its own; both sides work out the same list.
 *
 * @phpstan-import-type DemoParty from Acts
 */
final readonly class Group
{
    public const COMPANIES = [
        'BOAT' => 'Tamarack Boatworks',
        'CHAND' => 'Tamarack Chandlery',
        'NORDIC' => 'Tamarack Nordic',
    ];

    /** From whom to whom, under which beginning of a number, what, on which day of each month, in which currency. */
    private const TRADE = [
        ['CHAND', 'BOAT', 'TC', 'fittings and stores of the month', 12, 'USD'],
        ['BOAT', 'NORDIC', 'TB', 'dinghies for the northern season', 18, 'EUR'],
    ];

    /** What both books say of the last days: days before the end, number and amount there, and here; null for none. */
    private const LATELY = [
        [9, 'TC-26-L1', 41_200, 'TC-26-L1', 41_200],
        [8, 'TC-26-L2', 125_000, 'TC-26-L2', 124_500],
        [6, 'TC-26-L3', 31_840, null, 0],
        [5, 'TC-26-L4', 56_000, 'TC 264', 56_000],
        [4, 'TC-26-L5', 18_250, 'TC-26-L5', 18_250],
        [4, null, 0, 'TC-26-L9', 7_700],
    ];

    public function __construct(private Acts $acts)
    {
    }

    /** @return list<array{Side, string, string}> which side of a company's books each other company stands on, and in which currency */
    public static function partners(string $company): array
    {
        $partners = [];
        foreach (self::TRADE as [$from, $to, , , , $currency]) {
            if ($company === $from) {
                $partners[] = [Side::Receivables, $to, $currency];
            } elseif ($company === $to) {
                $partners[] = [Side::Payables, $from, $currency];
            }
        }

        return $partners;
    }

    /**
     * @param list<DemoParty> $parties
     *
     * @return list<DemoParty> those outside the group
     */
    public static function others(array $parties): array
    {
        return array_values(
            array_filter($parties, static fn (array $p): bool => !\in_array($p['name'], self::COMPANIES, true)),
        );
    }

    public function plan(string $company, Actor $payables, Actor $receivables, Actor $approver, Day $start): void
    {
        foreach (self::TRADE as [$from, $to, $prefix, $text, $dayOfMonth, $currency]) {
            if ($company !== $from && $company !== $to) {
                continue;
            }
            $side = $company === $from ? Side::Receivables : Side::Payables;
            $actor = Side::Payables === $side ? $payables : $receivables;
            $other = self::COMPANIES[$company === $from ? $to : $from];
            for ($n = 1; ($day = Day::inMonth($start->year, $n, $dayOfMonth))->isBefore($this->acts->end); ++$n) {
                $this->acts->on($day, function () use (
                    $actor,
                    $approver,
                    $side,
                    $other,
                    $day,
                    $prefix,
                    $text,
                    $currency,
                    $n,
                ): void {
                    $this->sale(
                        $actor,
                        $approver,
                        $side,
                        $other,
                        [
                            'number' => \sprintf('%s-%s-%02d', $prefix, substr((string) $day->year, 2), $day->month),
                            'document_date' => $day->iso(),
                            'currency' => $currency,
                            'description' => $text,
                            'lines' => [
                                [
                                    'account' => Side::Payables === $side ? '5000' : '4000',
                                    'amount' => Money::decimalOf(214_350 + (($n * 73_417) % 189_000)),
                                    'text' => $text,
                                ],
                            ],
                        ],
                        $day,
                    );
                });
            }
        }
    }

    /** What CHAND sold to BOAT lately, as either of them has it. */
    public function lately(string $company, Actor $actor, Actor $approver): void
    {
        $sells = 'CHAND' === $company;
        foreach ('NORDIC' === $company ? [] : self::LATELY as [$ago, $theirs, $their, $ours, $our]) {
            [$number, $amount] = $sells ? [$theirs, $their] : [$ours, $our];
            if (null === $number) {
                continue;
            }
            $day = $this->acts->end->plusDays(-$ago);
            $this->acts->on(
                $day,
                fn () => $this->sale(
                    $actor,
                    $approver,
                    $sells ? Side::Receivables : Side::Payables,
                    self::COMPANIES[$sells ? 'BOAT' : 'CHAND'],
                    [
                        'number' => $number,
                        'document_date' => $day->iso(),
                        'currency' => 'USD',
                        'description' => 'fittings, on call',
                        'lines' => [
                            [
                                'account' => $sells ? '4000' : '5000',
                                'amount' => Money::decimalOf($amount),
                                'text' => 'fittings',
                            ],
                        ],
                    ],
                    $day,
                ),
            );
        }
    }

    /** @param array<string, mixed> $raw */
    private function sale(Actor $actor, Actor $approver, Side $side, string $other, array $raw, Day $day): void
    {
        $party =
            array_values(
                array_filter($this->acts->parties($actor, $side), static fn (array $p): bool => $p['name'] === $other),
            )[0] ?? throw new \LogicException($other.' is missing.');
        $id = $this->acts->post($actor, $side, [...$raw, 'party' => $party['code'], 'kind' => 'invoice']);
        $this->acts->approve($approver, $id, $day);
        $on = $day->plusDays(28);
        $this->acts->on(
            $on,
            fn () => $this->acts->inFull($actor, $side, $id, $party, $on, 'group '.\strval($raw['number'])),
        );
    }
}
