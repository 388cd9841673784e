<?php

declare(strict_types=1);

namespace Nelbix\App\Parties;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\Letters;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/** What a party has of its own beside its terms: accounts, withholding, and how statements, reminders and finance charges go. */
final readonly class PartyProfile
{
    public const STATEMENTS = ['none' => 'none', 'open' => 'open items, monthly', 'moves' => 'all that moved, monthly'];

    public const COLUMNS = [
        'group',
        'withholding_percent',
        'control_account',
        'prepayment_account',
        'statement',
        'language',
        'reminder_ladder',
        'charge_rate',
        'charge_grace_days',
        'charge_smallest',
        'charge_on_charges',
        'match_price_percent',
        'match_price_amount',
        'match_quantity_percent',
        'match_quantity_units',
        'match_total',
    ];

    /** What deliveries and invoices of a vendor may differ by, where it is not as the company has it. */
    private const BOUNDS = [
        'match_price_percent' => 'matchPricePercent',
        'match_price_amount' => 'matchPriceAmount',
        'match_quantity_percent' => 'matchQuantityPercent',
        'match_quantity_units' => 'matchQuantityUnits',
        'match_total' => 'matchTotal',
    ];

    public function __construct(private Connection $db, private Chart $chart)
    {
    }

    /**
     * @param array<mixed> $raw COLUMNS; a missing key leaves the field as it is
     *
     * @return array<string, mixed> the party's properties that were given
     */
    public function read(Actor $actor, Side $side, ?Party $party, array $raw, ProblemList $problems): array
    {
        $fields = new Fields($raw);
        $read = [];
        if ($fields->has('group')) {
            $read['partyGroup'] = $fields->text('group');
            if (mb_strlen($read['partyGroup']) > 30 || str_contains($read['partyGroup'], ',')) {
                $problems->add('group', 'A group’s name has up to 30 characters and no comma.');
            }
        }
        foreach (['withholding_percent' => 'withholdingPercent', 'charge_rate' => 'chargeRate'] as $key => $property) {
            if ($fields->has($key)) {
                $read[$property] = $problems->attempt(static fn (): ?string => self::percent($fields->text($key), $key));
            }
        }
        foreach (self::BOUNDS as $key => $property) {
            if ($fields->has($key)) {
                $read[$property] = $problems->attempt(static fn (): ?string => self::bound($fields->text($key), $key));
            }
        }
        foreach (
            [
                'control_account' => ['controlAccountId', $side->controlRole()],
                'prepayment_account' => ['prepaymentAccountId', $side->prepaymentRole()],
            ] as $key => [$property, $role]
        ) {
            if ($fields->has($key)) {
                $read[$property] =
                    '' === $fields->text($key)
                        ? null
                        : $problems->attempt(fn (): int => $this->account($actor, $fields->text($key), $key, $role));
            }
        }
        if ($fields->has('statement')) {
            $read['statement'] = '' === $fields->text('statement') ? 'none' : $fields->text('statement');
            if (!isset(self::STATEMENTS[$read['statement']])) {
                $problems->add('statement', 'A statement is none, open or moves.');
            }
        }
        if ($fields->has('language')) {
            $read['language'] = '' === $fields->text('language') ? 'en' : $fields->text('language');
            if (!isset(Letters::LANGUAGES[$read['language']])) {
                $problems->add('language', 'The language is '.implode(', ', array_keys(Letters::LANGUAGES)).'.');
            }
        }
        if ($fields->has('reminder_ladder')) {
            $read['reminderLadderId'] =
                '' === $fields->text('reminder_ladder')
                    ? null
                    : $problems->attempt(
                        fn (): int => $this->ladder($actor, $fields->text('reminder_ladder'), $party?->reminderLadderId),
                    );
        }
        if ($fields->has('charge_grace_days')) {
            $days = $fields->text('charge_grace_days');
            if (1 !== preg_match('/\A\d{0,3}\z/', $days)) {
                $problems->add('charge_grace_days', 'Grace is a number of days up to 999.');
            }
            $read['chargeGraceDays'] = (int) $days;
        }
        if ($fields->has('charge_smallest')) {
            $smallest =
                '' === $fields->text('charge_smallest')
                    ? 0
                    : $problems->attempt(
                        static fn (): int => Money::parse(
                            $fields->text('charge_smallest'),
                            $actor->baseCurrency,
                            'charge_smallest',
                        )->minor,
                    ) ?? 0;
            if ($smallest < 0) {
                $problems->add('charge_smallest', 'The smallest charge is not below zero.');
            }
            $read['chargeSmallest'] = $smallest;
        }
        if ($fields->has('charge_on_charges')) {
            $read['chargeOnCharges'] = $fields->yes('charge_on_charges');
        }

        return $read;
    }

    /** @throws Refused */
    private static function bound(string $typed, string $field): ?string
    {
        return match (true) {
            '' === $typed => null,
            1 === preg_match('/\A\d{1,8}(\.\d{1,6})?\z/', $typed) => $typed,
            default => throw Refused::because(
                $field,
                'Give a number such as 2.5, or leave it empty for the company’s own.',
            ),
        };
    }

    /** @return array<string, string> the party's profile as the form and the history have it */
    public function form(Party $p, string $baseCurrency): array
    {
        $number = fn (?int $id): string => null === $id ? '' : $this->chart->account($p->companyId, $id)['number'];
        $plain = static fn (?string $percent): string => null === $percent
            ? ''
            : (string) BigDecimal::of($percent)->stripTrailingZeros();

        return [
            'group' => $p->partyGroup,
            'withholding_percent' => $plain($p->withholdingPercent),
            'control_account' => $number($p->controlAccountId),
            'prepayment_account' => $number($p->prepaymentAccountId),
            'statement' => $p->statement,
            'language' => $p->language,
            'reminder_ladder' => null === $p->reminderLadderId
                    ? ''
                    : (string) $this->db->fetchOne('SELECT code FROM reminder_ladder WHERE id = ?', [
                        $p->reminderLadderId,
                    ]),
            'charge_rate' => $plain($p->chargeRate),
            'charge_grace_days' => 0 === $p->chargeGraceDays ? '' : (string) $p->chargeGraceDays,
            'charge_smallest' => 0 === $p->chargeSmallest ? '' : Money::of($p->chargeSmallest, $baseCurrency)->decimal(),
            'charge_on_charges' => $p->chargeOnCharges ? 'yes' : '',
            ...array_map(static fn (string $property): string => $plain($p->{$property}), self::BOUNDS),
        ];
    }

    /** @return list<string> the groups that parties of a side are in, by name */
    public function groups(int $companyId, Side $side): array
    {
        return array_map(
            'strval',
            $this->db->fetchFirstColumn(
                "SELECT DISTINCT party_group FROM party WHERE company_id = ? AND side = ? AND party_group <> '' ORDER BY party_group",
                [$companyId, $side->value],
            ),
        );
    }

    /** @return array<string, string> code => name and rungs, of those in use and of the one that the party has */
    public function ladders(int $companyId, ?Party $party = null): array
    {
        /** @var array<string, string> */
        return $this->db->fetchAllKeyValue(
            <<<SQL
            SELECT code, CONCAT(name, ': ', rungs, ' days')
            FROM reminder_ladder
            WHERE company_id = ? AND (retired = 0 OR id = ?)
            ORDER BY code
            SQL
            ,
            [$companyId, $party?->reminderLadderId],
        );
    }

    /** @return array<string, string> number => name, of the accounts that may be a party's own */
    public function accounts(int $companyId, AccountRole $role): array
    {
        $found = [];
        foreach ($this->chart->accounts($companyId) as $account) {
            if ($account['role'] === $role->value && !$account['retired']) {
                $found[$account['number']] = $account['name'];
            }
        }

        return $found;
    }

    /** @throws Refused */
    private static function percent(string $typed, string $field): ?string
    {
        if ('' === $typed) {
            return null;
        }
        if (1 !== preg_match('/\A\d{1,2}(\.\d{1,4})?\z/', $typed)) {
            throw Refused::because(
                $field,
                \sprintf('“%s” is no percent; give one below 100 such as 7.5.', mb_strimwidth($typed, 0, 20, '…')),
            );
        }

        return BigDecimal::of($typed)->isZero() ? null : $typed;
    }

    /** @throws Refused */
    private function account(Actor $actor, string $number, string $field, AccountRole $role): int
    {
        $id = $this->chart->any($actor->companyId, $number, $field);
        if ($this->chart->account($actor->companyId, $id)['role'] !== $role->value) {
            throw Refused::because(
                $field,
                \sprintf(
                    '%s does not have the role %s; choose an account that has, or add one under Setup, Accounts.',
                    $number,
                    str_replace('_', ' ', $role->value),
                ),
            );
        }

        return $id;
    }

    /** @throws Refused */
    private function ladder(Actor $actor, string $code, ?int $has): int
    {
        $id = $this->db->fetchOne(
            'SELECT id FROM reminder_ladder WHERE company_id = ? AND code = ? AND (retired = 0 OR id = ?)',
            [$actor->companyId, $code, $has],
        );

        return false === $id
            ? throw Refused::because(
                'reminder_ladder',
                \sprintf(
                    'There is no reminder ladder “%s” in use; add it under Setup.',
                    mb_strimwidth($code, 0, 20, '…'),
                ),
                ProblemKind::Unknown,
            )
            : (int) $id;
    }
}
