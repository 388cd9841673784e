<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Payment;

use Nelbix\Core\Refused;

/** A format in which a bank takes payment orders. The same order always gives the same bytes. */
interface PaymentFile
{
    /** @throws Refused when the order lacks what the format asks for; the message names the payee */
    public function write(PaymentOrder $order): string;

    /** The ending of the file's name. */
    public function extension(): string;
}
