<?php

declare(strict_types=1);

namespace Nelbix\Core\Ledger;

/** What an account does for the system; a company has one account in each single role. Source: rules.md, Items and their sign. */
enum AccountRole: string
{
    case Payables = 'payables';
    case Receivables = 'receivables';
    case VendorPrepayments = 'vendor_prepayments';
    case CustomerPrepayments = 'customer_prepayments';
    case RefundsPayable = 'refunds_payable';
    case ReceivedNotInvoiced = 'received_not_invoiced';
    case InvoicedNotReceived = 'invoiced_not_received';
    case UnidentifiedReceipts = 'unidentified_receipts';
    case MoneyOnHand = 'money_on_hand';
    case Bank = 'bank';
    case InputTax = 'input_tax';
    case OutputTax = 'output_tax';
    case DiscountsReceived = 'discounts_received';
    case DiscountsAllowed = 'discounts_allowed';
    case ExchangeRealised = 'exchange_realised';
    case ExchangeUnrealised = 'exchange_unrealised';
    case ReceivablesRevaluation = 'receivables_revaluation';
    case PayablesRevaluation = 'payables_revaluation';
    case SmallDifferences = 'small_differences';
    case BadDebt = 'bad_debt';
    case TaxOnCustomerPrepayments = 'tax_on_customer_prepayments';
    case BadDebtAllowance = 'bad_debt_allowance';
    case BadDebtsRecovered = 'bad_debts_recovered';
    case BankCharges = 'bank_charges';
    case FinanceChargeIncome = 'finance_charge_income';
    case WithholdingPayable = 'withholding_payable';
    case WithholdingRecoverable = 'withholding_recoverable';
    case PriceVariance = 'price_variance';
    case CostOfSales = 'cost_of_sales';
    case Inventory = 'inventory';
    case OpeningBalances = 'opening_balances';
    case RetainedEarnings = 'retained_earnings';

    /** A control account takes entries from its party ledger only. */
    public function isControl(): bool
    {
        return \in_array($this, self::controls(), true);
    }

    /** @return list<self> */
    public static function controls(): array
    {
        return [
            self::Payables,
            self::Receivables,
            self::VendorPrepayments,
            self::CustomerPrepayments,
            self::RefundsPayable,
            self::ReceivedNotInvoiced,
            self::InvoicedNotReceived,
            self::UnidentifiedReceipts,
            self::MoneyOnHand,
        ];
    }

    /** @return list<self> the control accounts whose items stand on one side */
    public static function controlsOf(Side $side): array
    {
        return array_values(array_filter(self::controls(), static fn (self $r): bool => $r->side() === $side));
    }

    /** The sign that turns ledger sign (debit +) into the sign of the account's normal balance. */
    public function normalSign(): int
    {
        return match ($this) {
            self::Payables,
            self::CustomerPrepayments,
            self::RefundsPayable,
            self::ReceivedNotInvoiced,
            self::UnidentifiedReceipts => -1,
            default => 1,
        };
    }

    public function side(): ?Side
    {
        return match ($this) {
            self::Payables, self::VendorPrepayments => Side::Payables,
            self::Receivables, self::CustomerPrepayments, self::UnidentifiedReceipts => Side::Receivables,
            self::RefundsPayable => Side::Payables,
            default => null,
        };
    }

    /** Only these may stand on more than one account of a company. */
    public function mayRepeat(): bool
    {
        return \in_array(
            $this,
            [
                self::Bank,
                self::InputTax,
                self::OutputTax,
                self::Payables,
                self::Receivables,
                self::VendorPrepayments,
                self::CustomerPrepayments,
            ],
            true,
        );
    }
}
