<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

/** The record that an entry was posted for. */
final readonly class Source
{
    private function __construct(public SourceKind $kind, public int $id)
    {
    }

    public static function document(int $id): self
    {
        return new self(SourceKind::Document, $id);
    }

    public static function settlement(int $id): self
    {
        return new self(SourceKind::Settlement, $id);
    }

    public static function delivery(int $id): self
    {
        return new self(SourceKind::Delivery, $id);
    }

    public static function deposit(int $id): self
    {
        return new self(SourceKind::Deposit, $id);
    }

    /** A part of a line of a bank statement that went straight to accounts. */
    public static function bankLine(int $partId): self
    {
        return new self(SourceKind::BankLine, $partId);
    }

    public static function revaluation(int $id): self
    {
        return new self(SourceKind::Revaluation, $id);
    }

    public static function yearEnd(int $id): self
    {
        return new self(SourceKind::YearEnd, $id);
    }

    public static function goodsSlip(int $id): self
    {
        return new self(SourceKind::GoodsSlip, $id);
    }

    /**
     * @param list<array<string, mixed>> $rows with a slip_id, or without
     *
     * @return list<self> each slip once
     */
    public static function goodsSlips(array $rows): array
    {
        return array_map(
            static fn (mixed $id): self => self::goodsSlip((int) $id),
            array_values(array_unique(array_filter(array_column($rows, 'slip_id')))),
        );
    }

    /** A party ledger keeps items for documents and settlements; goods and deposits have control entries and no items. */
    public function mayTouchControl(): bool
    {
        return \in_array($this->kind, [SourceKind::Delivery, SourceKind::GoodsSlip, SourceKind::Deposit], true);
    }
}
