<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Nelbix\App\Bank\BankRow;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Codes\TaxCodeRecord;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\Analysis;
use Nelbix\Core\Ledger\BankLineEntry;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/**
 * The entry of a line that goes straight to accounts, or to another bank account of ours.
 *
 * @phpstan-import-type AccountPart from Choice
 */
final readonly class LineAccounts
{
    public function __construct(private Chart $chart, private CodeBook $codes, private Rates $rates)
    {
    }

    /**
     * @param list<AccountPart> $parts
     *
     * @throws Refused with every problem, or when the parts do not add up to the amount
     */
    public function draft(Actor $actor, BankRow $bank, Day $day, int $amount, array $parts, string $text): JournalDraft
    {
        if ([] === $parts) {
            throw Refused::because('account', 'The account is missing; type its number.', ProblemKind::Missing);
        }
        if (array_sum(array_column($parts, 'amount')) !== $amount) {
            throw Refused::because('amount', 'The parts do not add up to what is placed; change one of them.');
        }
        $problems = new ProblemList();
        $read = [];
        foreach ($parts as $k => $part) {
            $read[] = $problems->attempt(fn (): array => $this->part($actor, $part), \sprintf('lines.%d.', $k));
        }
        $problems->refuse();
        $whole = array_values(array_filter($read));

        return [] === $whole
            ? throw Refused::because('account', 'The account is missing; type its number.', ProblemKind::Missing)
            : BankLineEntry::draft(
                $bank->accountId,
                $bank->currency,
                $this->base($actor, $bank, $day, $amount),
                $whole,
                $text,
            );
    }

    /** @return AccountPart a whole amount in minor units to one account, with nothing further */
    public static function plain(string $account, int $amount): array
    {
        return [
            'account' => $account,
            'amount' => $amount,
            'tax' => '',
            'cost_center' => '',
            'department' => '',
            'project' => '',
            'text' => '',
        ];
    }

    /** @throws Refused for a bank account of another currency: nobody knows yet what it got */
    public function transfer(
        Actor $actor,
        BankRow $bank,
        BankRow $other,
        Day $day,
        int $amount,
        string $text,
    ): JournalDraft {
        if ($other->id === $bank->id) {
            throw Refused::because('bank', 'A transfer goes to another bank account; choose that one.');
        }
        if ($other->currency !== $bank->currency) {
            throw Refused::because(
                'bank',
                \sprintf(
                    '%s is kept in %s: what it got is on its own statement. Place the line on an account for money on the way, '.
                        'and the other line too.',
                    $other->name,
                    $other->currency,
                ),
            );
        }

        return BankLineEntry::draft(
            $bank->accountId,
            $bank->currency,
            $this->base($actor, $bank, $day, $amount),
            [
                [
                    'account' => $other->accountId,
                    'amount' => $amount,
                    'text' => '',
                    'analysis' => new Analysis(),
                    'code' => null,
                    'tax_account' => 0,
                ],
            ],
            $text,
        );
    }

    private function base(Actor $actor, BankRow $bank, Day $day, int $amount): int
    {
        $rate = $this->rates->on($actor->companyId, $bank->currency, $actor->baseCurrency, $day, 'bank');

        return ($amount <=> 0) * InvoiceEntry::base(abs($amount), $bank->currency, $actor->baseCurrency, $rate);
    }

    /**
     * @param AccountPart $part
     *
     * @return array{account: int, amount: int, text: string, analysis: Analysis, code: ?\Nelbix\Core\Tax\TaxCode, tax_account: int}
     */
    private function part(Actor $actor, array $part): array
    {
        if (0 === $part['amount']) {
            throw Refused::because('amount', 'The amount of a part is missing.', ProblemKind::Missing);
        }
        $account = $this->chart->ofLine($actor->companyId, $part['account'], 'account');
        $code = $this->tax($actor, $account, $part['tax']);
        $analysis = fn (string $kind): ?int => $this->codes->analysis(
            $actor->companyId,
            $kind,
            (string) ($part[$kind] ?? ''),
            $kind,
        );

        return [
            'account' => $account,
            'amount' => $part['amount'],
            'text' => $part['text'],
            'analysis' => new Analysis($analysis('cost_center'), $analysis('department'), $analysis('project')),
            'code' => $code?->rule(),
            'tax_account' => $code->accountId ?? 0,
        ];
    }

    /** @throws Refused for a code of the other side, and one that is owed in reverse, which needs an invoice */
    private function tax(Actor $actor, int $account, string $typed): ?TaxCodeRecord
    {
        $of = $this->chart->account($actor->companyId, $account);
        $income = 'income' === $of['type'] && AccountRole::DiscountsAllowed->value !== $of['role'];
        $code = $this->codes->taxCode($actor->companyId, $income ? Side::Receivables : Side::Payables, $typed, 'tax');
        if (null !== $code?->reverseAccountId) {
            throw Refused::because('tax', 'Tax that is owed in reverse needs an invoice; enter one and settle it.');
        }

        return $code;
    }
}
