<?php

declare(strict_types=1);

namespace Nelbix\App\People;

/** Time-based one-time codes. Source: RFC 6238 (30 seconds, SHA-1, six digits) and RFC 4648 (base 32), as telephones expect them. */
final class OneTimeCode
{
    private const STEP = 30;
    private const ALPHABET = 'ABCDEFGHIJKLMNOPQRSTUVWXYZ234567';

    /** @param string $secret bytes */
    public static function at(#[\SensitiveParameter] string $secret, int $step, int $digits = 6): string
    {
        $hash = hash_hmac('sha1', pack('J', $step), $secret, true);
        $offset = \ord($hash[19]) & 0xF;
        /** @var array{1: int} $word */
        $word = unpack('N', substr($hash, $offset, 4));

        return str_pad((string) (($word[1] & 0x7FFFFFFF) % 10 ** $digits), $digits, '0', \STR_PAD_LEFT);
    }

    public static function step(int $time): int
    {
        return intdiv($time, self::STEP);
    }

    /**
     * The time step that a typed code belongs to: the present one or a neighbour, since clocks differ.
     *
     * @param int $after the last step that was taken; a code is good once
     *
     * @return int|null null when the code is none of them
     */
    public static function match(#[\SensitiveParameter] string $secret, string $typed, int $time, int $after): ?int
    {
        $typed = (string) preg_replace('/\s+/', '', $typed);
        $now = self::step($time);
        foreach ([$now - 1, $now, $now + 1] as $step) {
            if ($step > $after && hash_equals(self::at($secret, $step), $typed)) {
                return $step;
            }
        }

        return null;
    }

    /** What a telephone takes in. */
    public static function address(#[\SensitiveParameter] string $secret, string $name): string
    {
        return \sprintf('otpauth://totp/Nelbix:%s?secret=%s&issuer=Nelbix', rawurlencode($name), self::base32($secret));
    }

    public static function base32(string $bytes): string
    {
        $bits = '';
        foreach (str_split($bytes) as $byte) {
            $bits .= str_pad(decbin(\ord($byte)), 8, '0', \STR_PAD_LEFT);
        }
        $text = '';
        foreach (str_split($bits, 5) as $five) {
            $text .= self::ALPHABET[(int) bindec(str_pad($five, 5, '0'))];
        }

        return $text;
    }
}
