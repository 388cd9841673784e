<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

/** Who acts, and in which company. Use cases take it instead of reaching for the session. */
final readonly class Actor
{
    public function __construct(public int $companyId, public string $baseCurrency, public int $userId)
    {
    }

    public static function of(Company $company, Person $user): self
    {
        return new self($company->id(), $company->baseCurrency, $user->id());
    }
}
