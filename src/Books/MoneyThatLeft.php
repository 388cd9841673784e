<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

/** Payments in files for the bank. Kept behind an interface because documents do not know bank files. */
interface MoneyThatLeft
{
    /**
     * The file that has a payment, and keeps it until the transaction ends; null when none has it, and once the bank gave it back.
     *
     * @return array{number: string, sent: bool}|null sent: the bank has the file
     */
    public function with(int $documentId): ?array;

    /** @return array{id: int, number: string, state: string, sent: bool}|null the file a payment is in, and what came of it, to be shown */
    public function fileOf(int $documentId): ?array;
}
