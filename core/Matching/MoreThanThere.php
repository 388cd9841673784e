<?php

declare(strict_types=1);

namespace Nelbix\Core\Matching;

use Brick\Math\BigDecimal;

/** More is asked for than was delivered and is neither invoiced nor sent back. */
final class MoreThanThere extends \DomainException
{
    public function __construct(public readonly BigDecimal $asked, public readonly BigDecimal $there)
    {
        parent::__construct(\sprintf('%s is more than the %s there are.', $asked, $there));
    }
}
