<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Nelbix\Core\Ledger\Side;

/** What an action asks for. Each action of a company names one with #[Needs]; an action that names none is closed. */
enum Permission: string
{
    case Enter = 'enter';
    case SeePayables = 'see payables';
    case SeeReceivables = 'see receivables';
    case EnterPayables = 'enter payables';
    case EnterReceivables = 'enter receivables';
    case PayVendors = 'pay vendors';
    case SeeOrders = 'see orders';
    case EnterOrders = 'enter orders';
    case SeeDeliveries = 'see deliveries';
    case RecordDeliveries = 'record deliveries';
    case ReleaseMatches = 'release matches';
    case PlaceBankLines = 'place bank lines';
    case PairRecords = 'pair records';
    case EnterJournal = 'enter journal entries';
    case WriteNotes = 'write notes';
    case Approve = 'approve';
    case SeeLedger = 'see the ledger';
    case SeeSetup = 'see setup';
    case Control = 'control';

    public static function see(Side $side): self
    {
        return Side::Payables === $side ? self::SeePayables : self::SeeReceivables;
    }

    public static function enter(Side $side): self
    {
        return Side::Payables === $side ? self::EnterPayables : self::EnterReceivables;
    }
}
