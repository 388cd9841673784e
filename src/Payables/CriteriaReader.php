<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\DBAL\Connection;
use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Books\Lookup;
use Nelbix\App\Parties\Party;
use Nelbix\App\Parties\PartyProfile;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Fields;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Proposal\Criteria;
use Nelbix\Core\Proposal\IfPaidLate;
use Nelbix\Core\Refused;

/** Reads the criteria of a proposal from a form or a command's options. */
final readonly class CriteriaReader
{
    /** Every method in one run. */
    public const ALL = 'all';

    /** How many vendors one run names: each is looked up. */
    private const MOST = 500;

    /** @return array<string, string> what a run can be asked for, in words */
    public static function choices(): array
    {
        $choices = [self::ALL => 'every method', ...Party::METHODS];
        foreach (array_keys(Party::METHODS) as $k => $one) {
            foreach (\array_slice(array_keys(Party::METHODS), $k + 1) as $other) {
                $choices[$one.','.$other] = $one.' and '.$other;
            }
        }

        return $choices;
    }

    public function __construct(
        private BooksDay $booksDay,
        private Lookup $lookup,
        private PartyProfile $profile,
        private BankAccounts $banks,
        private Connection $db,
    ) {
    }

    /**
     * @param array<mixed> $raw pay_date, due_through, again_on, bank, vendors[], groups[], method, currency, if_late[], at_least,
     *                          cash, per_invoice
     *
     * @return array{criteria: Criteria, bankAccountId: int, method: string}
     *
     * @throws Refused with every problem
     */
    public function read(Actor $actor, array $raw): array
    {
        $problems = new ProblemList();
        $text = (new Fields($raw))->text(...);
        $list = static function (string $key) use ($raw, $text, $problems): array {
            $all = \is_array($raw[$key] ?? null)
                ? array_map(static fn (mixed $v): string => \is_string($v) ? trim($v) : '', $raw[$key])
                : preg_split('/[\s,;]+/', $text($key));
            $named = array_values(array_unique(array_filter($all ?: [])));
            if (\count($named) > self::MOST) {
                $problems->add($key, \sprintf('At most %d can be named; take a group of vendors instead.', self::MOST));
            }

            return \array_slice($named, 0, self::MOST);
        };
        $input = $this->booksDay->input($actor->companyId);
        $today = $this->booksDay->of($actor->companyId);
        $pay =
            '' === $text('pay_date')
                ? $today
                : $problems->attempt(static fn (): Day => $input->read($text('pay_date'), 'pay_date')) ?? $today;
        $due =
            '' === $text('due_through')
                ? $pay
                : $problems->attempt(static fn (): Day => $input->read($text('due_through'), 'due_through', $pay)) ??
                    $pay;
        $again =
            '' === $text('again_on')
                ? $this->rhythm($actor->companyId, $pay)
                : $problems->attempt(static fn (): Day => $input->read($text('again_on'), 'again_on', $pay)) ??
                    $pay->plusDays(7);
        $bank = $problems->attempt(fn (): BankRow => $this->banks->named($actor->companyId, $text('bank')));
        $currency = '' === $text('currency') ? $bank->currency ?? $actor->baseCurrency : $text('currency');
        $currency = $problems->attempt(static fn (): string => Currency::of($currency)->code) ?? $actor->baseCurrency;
        $method = '' === $text('method') ? 'check' : $text('method');
        $methods = self::ALL === $method ? [] : explode(',', $method);
        if ([] !== array_diff($methods, array_keys(Party::METHODS))) {
            $problems->add('method', 'Choose check, transfer or card, several with commas between them, or all.');
        }
        $payees = array_map(
            fn (string $code): ?int => $problems->attempt(fn (): int => $this->payee($actor, $code)),
            $list('vendors'),
        );
        $groups = $this->groups($actor, $raw['groups'] ?? '', $problems);
        $late = array_map(
            static fn (string $v): ?IfPaidLate => IfPaidLate::tryFrom($v) ??
                $problems->attempt(
                    static fn () => throw Refused::because(
                        'if_late',
                        \sprintf('“%s” is none of stops_work, costs, can_wait.', $v),
                    ),
                ),
            $list('if_late'),
        );
        $amount = static fn (string $key): ?int => '' === $text($key)
            ? null
            : $problems->attempt(
                static fn (): int => AmountInput::read($text($key), Currency::of($currency), $key)->minor,
            );
        $smallest = $amount('at_least') ?? 0;
        $cash = $amount('cash');
        /** @var Criteria|null $criteria */
        $criteria = $problems->attempt(
            static fn (): Criteria => new Criteria(
                $pay,
                $due,
                $again,
                $currency,
                array_values(array_filter($payees)),
                $methods,
                array_values(array_filter($late)),
                $smallest,
                $cash,
                $groups,
                (new Fields($raw))->yes('per_invoice'),
            ),
        );
        if ([] !== $problems->all || null === $criteria || null === $bank) {
            throw Refused::all(
                [] === $problems->all ? [new \Nelbix\Core\Problem('', 'The criteria cannot be read.')] : $problems->all,
            );
        }

        return ['criteria' => $criteria, 'bankAccountId' => $bank->id, 'method' => $method];
    }

    /**
     * A vendor, or the customer whose refunds are paid.
     *
     * @throws Refused when there is neither
     */
    private function payee(Actor $actor, string $code): int
    {
        try {
            return $this->lookup->party($actor->companyId, Side::Payables, $code, 'vendors')->id();
        } catch (Refused $e) {
            $customer = $this->db->fetchOne(
                <<<'SQL'
                SELECT p.id
                FROM party p
                WHERE p.company_id = ? AND p.code = ? AND p.side = 'receivables'
                    AND EXISTS (SELECT 1 FROM open_item i WHERE i.party_id = p.id AND i.side = 'payables' AND i.open <> 0)
                SQL
                ,
                [$actor->companyId, $code],
            );

            return false === $customer ? throw $e : (int) $customer;
        }
    }

    /**
     * @param mixed $raw names, or one string with commas between them
     *
     * @return list<string>
     */
    private function groups(Actor $actor, mixed $raw, ProblemList $problems): array
    {
        $asked = array_values(
            array_filter(
                array_map(
                    static fn (mixed $v): string => \is_string($v) ? trim($v) : '',
                    \is_array($raw) ? $raw : explode(',', \is_string($raw) ? $raw : ''),
                ),
            ),
        );
        $known = [] === $asked ? [] : $this->profile->groups($actor->companyId, Side::Payables);
        foreach (array_diff($asked, $known) as $group) {
            $problems->add(
                'groups',
                \sprintf(
                    'No vendor is in a group “%s”; %s.',
                    mb_strimwidth($group, 0, 30, '…'),
                    [] === $known
                        ? 'give vendors their group on their pages'
                        : 'the groups are '.implode(', ', $known),
                ),
            );
        }

        return $asked;
    }

    /** Paying again on: the usual gap of past runs, else seven days later. */
    public function rhythm(int $companyId, Day $payDate): Day
    {
        $dates = $this->db->fetchFirstColumn(
            <<<SQL
            SELECT DISTINCT pay_date
            FROM proposal
            WHERE company_id = ? AND state = 'posted' AND pay_date < ?
            ORDER BY pay_date DESC
            LIMIT 9
            SQL
            ,
            [$companyId, $payDate->iso()],
        );
        $gaps = [];
        for ($k = 1; $k < \count($dates); ++$k) {
            $gaps[] = Day::of((string) $dates[$k])->daysUntil(Day::of((string) $dates[$k - 1]));
        }
        sort($gaps);

        return $payDate->plusDays([] === $gaps ? 7 : max(1, $gaps[intdiv(\count($gaps), 2)]));
    }
}
