<?php

declare(strict_types=1);

namespace Nelbix\App\Setup\NewCompany;

use Nelbix\Core\Ledger\AccountRole;

/** The accounts a new company begins with; a controller adds, renames and retires. Source: common practice. */
final class StandardChart
{
    /** number, name, type, role */
    public const ACCOUNTS = [
        ['1000', 'Bank', 'asset', AccountRole::Bank],
        ['1050', 'Money on hand', 'asset', AccountRole::MoneyOnHand],
        ['1200', 'Receivables control', 'asset', AccountRole::Receivables],
        ['1240', 'Revaluation of receivables', 'asset', null],
        ['1245', 'Allowance for bad debts', 'asset', AccountRole::BadDebtAllowance],
        ['1210', 'Receivables, revaluation', 'asset', AccountRole::ReceivablesRevaluation],
        ['1250', 'Vendor prepayments', 'asset', AccountRole::VendorPrepayments],
        ['1260', 'Tax on vendor prepayments', 'asset', null],
        ['1300', 'Input tax', 'asset', AccountRole::InputTax],
        ['1350', 'Withholding tax recoverable', 'asset', AccountRole::WithholdingRecoverable],
        ['1400', 'Inventory', 'asset', AccountRole::Inventory],
        ['1420', 'Invoiced, not received', 'asset', AccountRole::InvoicedNotReceived],
        ['1450', 'Paid in advance', 'asset', null],
        ['1600', 'Equipment', 'asset', null],
        ['1690', 'Depreciation of equipment so far', 'asset', null],
        ['2100', 'Payables control', 'liability', AccountRole::Payables],
        ['2105', 'Payables, revaluation', 'liability', AccountRole::PayablesRevaluation],
        ['2110', 'Received, not invoiced', 'liability', AccountRole::ReceivedNotInvoiced],
        ['2140', 'Revaluation of payables', 'liability', null],
        ['2150', 'Customer prepayments', 'liability', AccountRole::CustomerPrepayments],
        ['2155', 'Tax on customer prepayments', 'liability', AccountRole::TaxOnCustomerPrepayments],
        ['2160', 'Refunds payable', 'liability', AccountRole::RefundsPayable],
        ['2170', 'Unidentified receipts', 'liability', AccountRole::UnidentifiedReceipts],
        ['2200', 'Output tax', 'liability', AccountRole::OutputTax],
        ['2240', 'Tax settlement', 'liability', null],
        ['2250', 'Withholding tax payable', 'liability', AccountRole::WithholdingPayable],
        ['2300', 'Accrued expenses', 'liability', null],
        ['2400', 'Wages payable', 'liability', null],
        ['2410', 'Payroll taxes and contributions payable', 'liability', null],
        ['2500', 'Loans due within a year', 'liability', null],
        ['2600', 'Loans due later', 'liability', null],
        ['3000', 'Equity', 'equity', null],
        ['3800', 'Opening balances', 'equity', AccountRole::OpeningBalances],
        ['3900', 'Retained earnings', 'equity', AccountRole::RetainedEarnings],
        ['4000', 'Sales', 'income', null],
        ['4100', 'Services', 'income', null],
        ['4200', 'Rent and storage', 'income', null],
        ['4600', 'Interest received', 'income', null],
        ['4700', 'Finance charge income', 'income', AccountRole::FinanceChargeIncome],
        ['4800', 'Bad debts recovered', 'income', AccountRole::BadDebtsRecovered],
        ['4900', 'Discounts allowed', 'income', AccountRole::DiscountsAllowed],
        ['5000', 'Materials', 'expense', null],
        ['5100', 'Subcontractors', 'expense', null],
        ['5200', 'Freight in', 'expense', null],
        ['5500', 'Cost of sales', 'expense', AccountRole::CostOfSales],
        ['5800', 'Price variance', 'expense', AccountRole::PriceVariance],
        ['5900', 'Discounts received', 'expense', AccountRole::DiscountsReceived],
        ['6000', 'Rent', 'expense', null],
        ['6100', 'Power and fuel', 'expense', null],
        ['6200', 'Insurance', 'expense', null],
        ['6300', 'Repairs', 'expense', null],
        ['6400', 'Office', 'expense', null],
        ['6450', 'Legal and accounting fees', 'expense', null],
        ['6500', 'Travel', 'expense', null],
        ['6600', 'Wages and salaries', 'expense', null],
        ['6610', 'Payroll taxes and contributions', 'expense', null],
        ['6700', 'Depreciation', 'expense', null],
        ['6800', 'Bank charges', 'expense', AccountRole::BankCharges],
        ['6850', 'Small differences', 'expense', AccountRole::SmallDifferences],
        ['6900', 'Bad debt expense', 'expense', AccountRole::BadDebt],
        ['7800', 'Interest paid', 'expense', null],
        ['7900', 'Realised exchange differences', 'expense', AccountRole::ExchangeRealised],
        ['7950', 'Unrealised exchange differences', 'expense', AccountRole::ExchangeUnrealised],
        ['8000', 'Income taxes', 'expense', null],
    ];

    public const BANK = '1000';
    public const INPUT_TAX = '1300';
    public const UNIDENTIFIED = '2170';
    public const OUTPUT_TAX = '2200';
}
