<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

/** Payments that the bank has by now. Kept behind an interface because documents do not know bank files. */
interface MoneyThatLeft
{
    /** @return string|null what took the payment to the bank, in words; null while it is still here, and once it came back */
    public function with(int $documentId): ?string;
}
