<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

/** What an entry was posted for; an entry with none was entered by hand. */
enum SourceKind: string
{
    case Document = 'document';
    case Settlement = 'settlement';
    case Delivery = 'delivery';
    case Deposit = 'deposit';
    case GoodsSlip = 'goods_slip';
    case BankLine = 'bank_line';
    case Revaluation = 'revaluation';
    case YearEnd = 'year_end';
}
