<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Nelbix\Core\Ledger\Side;

/** A column of the grid in which a batch is entered; each is a field of the invoice's form, or of one of its first two lines. */
enum GridColumn: string
{
    case Party = 'party';
    case Number = 'number';
    case Kind = 'kind';
    case DocumentDate = 'document_date';
    case Terms = 'terms';
    case Currency = 'currency';
    case Account = 'account';
    case Amount = 'amount';
    case TaxCode = 'tax_code';
    case CostCenter = 'cost_center';
    case SecondAccount = 'account_2';
    case SecondAmount = 'amount_2';
    case SecondTaxCode = 'tax_code_2';
    case Text = 'text';
    case DueDate = 'due_date';

    /** @return list<self> those that stand there when nobody has chosen */
    public static function usual(): array
    {
        return [
            self::Party,
            self::Number,
            self::DocumentDate,
            self::Account,
            self::Amount,
            self::TaxCode,
            self::CostCenter,
            self::Text,
            self::DueDate,
        ];
    }

    public function heading(Side $side): string
    {
        return match ($this) {
            self::Party => ucfirst($side->partyWord()),
            self::Number => Side::Payables === $side ? 'Their number' : 'Our number',
            self::Kind => 'Kind',
            self::DocumentDate => 'Dated',
            self::TaxCode => 'Tax',
            self::SecondAccount => '2nd account',
            self::SecondAmount => '2nd amount',
            self::SecondTaxCode => '2nd tax',
            self::DueDate => 'Due',
            default => ucfirst(str_replace('_', ' ', $this->value)),
        };
    }

    /** Without it a row is no document. */
    public function isFixed(): bool
    {
        return \in_array($this, [self::Party, self::Number, self::Account, self::Amount], true);
    }

    public function isAmount(): bool
    {
        return self::Amount === $this || self::SecondAmount === $this;
    }

    /** What its picker picks; null for a field without one. */
    public function picks(): ?string
    {
        return match ($this) {
            self::Party, self::Terms, self::CostCenter => $this->value,
            self::Account, self::SecondAccount => 'account',
            self::TaxCode, self::SecondTaxCode => 'tax_code',
            default => null,
        };
    }

    /** How wide it is, in words that the style knows. */
    public function width(): string
    {
        return match ($this) {
            self::Text => 'rest',
            self::Number, self::DocumentDate, self::DueDate, self::Kind => 'wide',
            self::Party, self::Amount, self::SecondAmount => 'middle',
            default => 'narrow',
        };
    }

    /** The field of the invoice's form that it is. */
    public function field(): string
    {
        return match ($this) {
            self::Account, self::Amount, self::TaxCode, self::CostCenter, self::Text => 'lines.0.'.$this->value,
            self::SecondAccount, self::SecondAmount, self::SecondTaxCode => 'lines.1.'.substr($this->value, 0, -2),
            default => $this->value,
        };
    }

    /** The column that shows a field of the form; the field itself when none does. */
    public static function ofField(string $field): string
    {
        foreach (self::cases() as $column) {
            if ($column->field() === $field) {
                return $column->value;
            }
        }

        return $field;
    }
}
