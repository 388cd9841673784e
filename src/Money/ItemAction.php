<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Books\OpenItemRecord;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;

/** What may become of one open item without money. */
enum ItemAction: string
{
    case Claim = 'claim';
    case WriteOff = 'write-off';
    case HandOver = 'hand-over';
    case Prepayment = 'prepayment';

    /**
     * @param bool $nobodys the item is a receipt of a payer who is not known
     *
     * @return list<self> what may become of an item
     */
    public static function of(OpenItemRecord $item, bool $nobodys): array
    {
        if (0 === $item->open || null !== $item->reservedById) {
            return [];
        }
        $customers = Side::Receivables === $item->side;
        $money = $item->open < 0 && ($item->kind->isMoney() || $item->kind->carriesMoney());

        return [
            ...$customers && $item->open > 0 && DocumentKind::Claim !== $item->kind ? [self::Claim] : [],
            ...$customers && $item->open > 0 ? [self::WriteOff] : [],
            ...$nobodys && $item->open < 0 ? [self::HandOver] : [],
            ...$money && !$nobodys ? [self::Prepayment] : [],
        ];
    }

    /** What its link says, of an item on a prepayment account or not. */
    public function words(bool $prepaid): string
    {
        return match ($this) {
            self::Claim => 'Claim',
            self::WriteOff => 'Write off',
            self::HandOver => 'Hand over',
            self::Prepayment => $prepaid ? 'Make it unapplied' : 'Make it a prepayment',
        };
    }
}
