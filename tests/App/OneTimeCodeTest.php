<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\People\OneTimeCode;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** One-time codes. Source: RFC 6238, appendix B, the SHA-1 rows; RFC 4648, section 10. */
final class OneTimeCodeTest extends TestCase
{
    private const SECRET = '12345678901234567890';

    /** @return iterable<array{int, string}> */
    public static function vectors(): iterable
    {
        yield [59, '94287082'];
        yield [1111111109, '07081804'];
        yield [1111111111, '14050471'];
        yield [1234567890, '89005924'];
        yield [2000000000, '69279037'];
        yield [20000000000, '65353130'];
    }

    #[DataProvider('vectors')]
    public function testVectors(int $time, string $code): void
    {
        self::assertSame($code, OneTimeCode::at(self::SECRET, OneTimeCode::step($time), 8));
    }

    public function testACodeIsGoodForANeighbouringStepAndOnce(): void
    {
        $time = 1_111_111_111;
        $step = OneTimeCode::step($time);
        foreach ([-2 => null, -1 => $step - 1, 0 => $step, 1 => $step + 1, 2 => null] as $off => $found) {
            $code = OneTimeCode::at(self::SECRET, $step + $off);
            self::assertSame($found, OneTimeCode::match(self::SECRET, ' '.$code.' ', $time, 0), (string) $off);
            self::assertNull(OneTimeCode::match(self::SECRET, $code, $time, $step + $off), 'taken before');
        }
        self::assertNull(OneTimeCode::match(self::SECRET, '', $time, 0));
    }

    public function testBaseThirtyTwo(): void
    {
        foreach (
            [
                'f' => 'MY',
                'fo' => 'MZXQ',
                'foo' => 'MZXW6',
                'foob' => 'MZXW6YQ',
                'fooba' => 'MZXW6YTB',
                'foobar' => 'MZXW6YTBOI',
            ] as $in => $out
        ) {
            self::assertSame($out, OneTimeCode::base32($in));
        }
    }
}
