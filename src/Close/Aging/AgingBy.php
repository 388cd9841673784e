<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Aging;

/** What a line of the aging stands for. */
enum AgingBy: string
{
    case Party = 'party';
    case Document = 'document';
    case Account = 'account';
    case Group = 'group';
    case Salesperson = 'salesperson';
    case CostCenter = 'cost_center';
    case All = 'all';

    /** SQL over item i, party p and document d. */
    public function key(): string
    {
        return match ($this) {
            self::Party => 'i.party_id',
            self::Account => 'i.account_id',
            self::Group => 'p.party_group',
            self::Salesperson => 'd.salesperson',
            self::CostCenter => 'i.document_id',
            self::Document, self::All => "''",
        };
    }

    /** The joins that key() needs. */
    public function join(): string
    {
        return match ($this) {
            self::Group => 'JOIN party p ON p.id = i.party_id',
            self::Salesperson => 'JOIN document d ON d.id = i.document_id',
            default => '',
        };
    }

    public function words(string $party): string
    {
        return match ($this) {
            self::Party => $party,
            self::Document => 'document',
            self::Account => 'control account',
            self::Group => $party.' group',
            self::Salesperson => 'salesperson',
            self::CostCenter => 'cost center',
            self::All => 'one line',
        };
    }
}
