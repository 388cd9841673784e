<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

/** What the person said to what is asked before money is posted. */
final readonly class Answers
{
    /**
     * @param string $lookAlikeReason why it is another one than the one it looks like
     * @param bool $dayMeant a day far from today is meant
     * @param bool $moreThanThere it may be paid though the bank account holds less
     * @param bool $moreThanOwed it may be paid though far less is owed
     */
    public function __construct(
        public string $lookAlikeReason = '',
        public bool $dayMeant = false,
        public bool $moreThanThere = false,
        public bool $moreThanOwed = false,
    ) {
    }
}
