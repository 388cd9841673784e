<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Symfony\Component\DependencyInjection\Attribute\Autowire;
use Symfony\Component\HttpFoundation\RateLimiter\AbstractRequestRateLimiter;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\RateLimiter\RateLimiterFactory;
use Symfony\Component\Security\Http\SecurityRequestAttributes;

/**
 * Refused sign-ins are counted for a name at an address, for a name wherever it is tried, and for an address whatever is tried there;
 * the last is wide, so that one person's mistakes do not lock a whole office out.
 */
final class SignInLimiter extends AbstractRequestRateLimiter
{
    public function __construct(
        #[Autowire(service: 'limiter.sign_in_here')] private readonly RateLimiterFactory $here,
        #[Autowire(service: 'limiter.sign_in_name')] private readonly RateLimiterFactory $name,
        #[Autowire(service: 'limiter.sign_in_address')] private readonly RateLimiterFactory $address,
    ) {
    }

    protected function getLimiters(Request $request): array
    {
        $typed = $request->attributes->get(SecurityRequestAttributes::LAST_USERNAME, '');
        $name = hash('sha256', \is_string($typed) ? $typed : '');
        $address = hash('sha256', (string) $request->getClientIp());

        return [$this->here->create($name.$address), $this->name->create($name), $this->address->create($address)];
    }
}
