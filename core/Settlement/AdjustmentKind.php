<?php

declare(strict_types=1);

namespace Nelbix\Core\Settlement;

enum AdjustmentKind: string
{
    case Discount = 'discount';
    case WriteOff = 'write_off';
    case Withholding = 'withholding';
    case BadDebt = 'bad_debt';
    case BankCharge = 'bank_charge';
}
