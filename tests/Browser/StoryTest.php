<?php

declare(strict_types=1);

namespace Nelbix\Tests\Browser;

use Brick\Math\BigDecimal;
use Nelbix\Demo\Group;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Symfony\Component\Process\Process;

/** The demo is believable to somebody who does this for a living. */
final class StoryTest extends TestCase
{
    private const DAY = '--as-of=2026-06-12';

    /** @return array<mixed> */
    private static function console(string ...$arguments): array
    {
        $process = new Process([\PHP_BINARY, __DIR__.'/../../bin/console', ...$arguments, '--format=json']);
        $process->mustRun();

        return json_decode($process->getOutput(), true, 64, \JSON_THROW_ON_ERROR);
    }

    public function testCustomersPayAsCustomersDo(): void
    {
        $aging = self::console('nelbix:aging', 'receivables', '--company=BOAT', self::DAY)['total'];
        $late = BigDecimal::of($aging['buckets'][3]);
        self::assertTrue($late->isPositive(), 'somebody is a bad payer');
        self::assertTrue(
            $late->multipliedBy(10)->isLessThan($aging['total']),
            'little is over 90 days: '.json_encode($aging),
        );
        self::assertTrue(BigDecimal::of($aging['not_due'])->multipliedBy(2)->isGreaterThan($aging['total']));
        $unapplied = array_filter(
            self::console('nelbix:open-items', 'receivables', '--company=BOAT', self::DAY),
            static fn (array $i): bool => 'receipt' === $i['kind'],
        );
        self::assertLessThan(16, \count($unapplied), 'money that is placed on nothing is the exception');
        self::assertGreaterThan(2, \count($unapplied), 'but there is some');
    }

    /** @return iterable<string, array{string}> */
    public static function companies(): iterable
    {
        foreach (array_keys(Group::COMPANIES) as $company) {
            yield $company => [$company];
        }
    }

    #[DataProvider('companies')]
    public function testTheBankIsNeverAbsurd(string $company): void
    {
        foreach (['2025-02-28', '2025-06-30', '2025-10-31', '2026-01-31', '2026-04-30', '2026-06-12'] as $day) {
            $bank = array_column(
                self::console('nelbix:trial-balance', '--company='.$company, '--as-of='.$day),
                'balance',
                'account',
            )['1000'];
            self::assertTrue(BigDecimal::of($bank)->isPositive(), "$company has $bank at the bank on $day");
            self::assertTrue(BigDecimal::of($bank)->isLessThan(800_000), "$company has $bank at the bank on $day");
        }
    }

    /** What one company of the group owes another stands in the books of both, under the same number. */
    public function testTheGroupAgrees(): void
    {
        foreach ([['CHAND', 'BOAT'], ['BOAT', 'NORDIC']] as [$seller, $buyer]) {
            $of = static fn (string $company, string $side, string $column): array => array_column(
                array_filter(
                    self::console('nelbix:open-items', $side, '--company='.$company, self::DAY),
                    static fn (array $i): bool => 1 === preg_match('/\AT[BC]-\d\d-\d\d\z/', $i[$column]),
                ),
                'open',
                $column,
            );
            $owed = $of($seller, 'receivables', 'document');
            self::assertNotSame([], $owed);
            self::assertSame($owed, $of($buyer, 'payables', 'their_number'));
        }
    }
}
