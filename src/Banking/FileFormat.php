<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Nelbix\Core\Formats\Payment\AchFile;
use Nelbix\Core\Formats\Payment\CreditTransferFile;
use Nelbix\Core\Formats\Payment\PaymentFile;

/** In which format a bank takes payments. */
enum FileFormat: string
{
    case Ach = 'ach';
    case Iso = 'pain.001';
    case Prenote = 'prenote';
    case Debit = 'pain.008';

    /** @param bool $balanced whether the bank wants the debit of our own account in an ACH file */
    public function writer(bool $balanced): PaymentFile
    {
        return match ($this) {
            self::Iso => new CreditTransferFile(),
            self::Debit => throw new \LogicException('Direct debits are written where they are collected.'),
            default => new AchFile($balanced),
        };
    }

    /** The ending of the file's name. */
    public function extension(): string
    {
        return self::Debit === $this ? 'xml' : $this->writer(false)->extension();
    }

    public function words(): string
    {
        return match ($this) {
            self::Ach => 'ACH',
            self::Iso => 'ISO 20022 credit transfers',
            self::Prenote => 'ACH prenotes',
            self::Debit => 'ISO 20022 direct debits',
        };
    }
}
