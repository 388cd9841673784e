<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Nelbix\Core\Placement\SumSearch;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Against every set there is, tried one by one. */
final class SumSearchTest extends TestCase
{
    /** @return iterable<string, array{int, int, int}> seed, smallest and largest amount of an item */
    public static function kinds(): iterable
    {
        yield 'invoices' => [1, 1, 60];
        yield 'invoices and credits' => [2, -40, 60];
        yield 'many equal ones' => [3, 1, 4];
        yield 'equal ones and credits' => [4, -3, 3];
    }

    #[DataProvider('kinds')]
    public function testItFindsWhatThereIs(int $seed, int $least, int $most): void
    {
        mt_srand($seed);
        for ($round = 0; $round < 400; ++$round) {
            $worth = array_map(static fn (): int => mt_rand($least, $most), range(1, mt_rand(1, 10)));
            $amount = mt_rand(1, 90);
            $size = mt_rand(1, 6);
            $all = [];
            for ($mask = 1; $mask < 1 << \count($worth); ++$mask) {
                $set = array_filter(
                    $worth,
                    static fn (int $k): bool => 0 !== (($mask >> $k) & 1),
                    \ARRAY_FILTER_USE_KEY,
                );
                if (\count($set) <= $size && array_sum($set) === $amount) {
                    $all[] = $mask;
                }
            }
            $found = SumSearch::masks($amount, $worth, $size);
            self::assertSame([], array_diff($found, $all), 'what is found adds up');
            self::assertSame($found, array_unique($found), 'each once');
            self::assertCount(
                min(2, \count($all)),
                $found,
                json_encode([$amount, $worth, $size], \JSON_THROW_ON_ERROR),
            );
        }
    }
}
