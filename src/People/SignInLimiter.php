<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Psr\Clock\ClockInterface;
use Symfony\Component\HttpFoundation\RateLimiter\RequestRateLimiterInterface;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\RateLimiter\RateLimit;
use Symfony\Component\Security\Http\SecurityRequestAttributes;

/**
 * Refused sign-ins are counted for a name at an address, for a name wherever it is tried, and for an address whatever is tried there;
 * the last is wide, so that one person's mistakes do not lock a whole office out.
 */
final readonly class SignInLimiter implements RequestRateLimiterInterface
{
    /** Tries and seconds: of a name at an address, of a name anywhere, of an address whatever the name. */
    private const HERE = [5, 300];
    private const NAME = [50, 3600];
    private const ADDRESS = [300, 300];

    public function __construct(private Attempts $attempts, private ClockInterface $clock)
    {
    }

    public function consume(Request $request): RateLimit
    {
        $left = \PHP_INT_MAX;
        $until = 0;
        foreach (self::of($request) as $of => [$most, $seconds]) {
            $try = $this->attempts->count($of, $seconds);
            $left = min($left, $most - $try['n']);
            $until = $try['n'] > $most ? max($until, $try['until']) : $until;
        }
        $now = $this->clock->now();

        return new RateLimit(max(0, $left), $left >= 0 ? $now : $now->setTimestamp($until), $left >= 0, self::HERE[0]);
    }

    /** Who was right begins anew; the address keeps what others did there. */
    public function reset(Request $request): void
    {
        [$here, $name, $address] = array_keys(self::of($request));
        $this->attempts->forget($here);
        $this->attempts->forget($name);
        $this->attempts->giveBack($address);
    }

    /** @return array<string, array{int, int}> */
    private static function of(Request $request): array
    {
        $typed = $request->attributes->get(SecurityRequestAttributes::LAST_USERNAME, '');
        $name = mb_strtolower(\is_string($typed) ? $typed : '');
        $address = (string) $request->getClientIp();

        return [
            "sign in $address $name" => self::HERE,
            "sign in as $name" => self::NAME,
            "sign in from $address" => self::ADDRESS,
        ];
    }
}
