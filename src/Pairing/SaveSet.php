<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/** Adds or changes a pairing set. Its sources are of companies in which the person may see them. */
final readonly class SaveSet
{
    private const MOST_FIELDS = 8;

    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private PairingLock $lock,
        private SourceReader $reader,
        private History $history,
    ) {
    }

    /**
     * @param array<mixed> $raw name, currency, left[] and right[] (kind, company, side, party, account, bank, file, since, columns[],
     *                          days, decimal), fields[] (name, left, right), turned, adjusts, hand_within, group_by, shows_other, version
     *
     * @throws Refused with every problem
     */
    public function save(Desk $desk, array $raw, ?int $id): int
    {
        $problems = new ProblemList();
        $text = (new Fields($raw))->text(...);
        if ('' === $text('name') || mb_strlen($text('name')) > 120) {
            $problems->add('name', 'A set needs a name of up to 120 characters.', ProblemKind::Missing);
        }
        $currency =
            $problems->attempt(
                static fn (): string => Currency::of(
                    '' === $text('currency') ? $desk->company->baseCurrency : strtoupper($text('currency')),
                )->code,
            ) ?? $desk->company->baseCurrency;
        $sources = [];
        foreach (['left', 'right'] as $side) {
            $sources[$side] = $problems->attempt(
                fn (): Source => $this->reader->read($desk, \is_array($raw[$side] ?? null) ? $raw[$side] : []),
                $side.'.',
            );
        }
        $shared = self::shared($raw, $sources['left'], $sources['right'], $problems);
        foreach (['turned' => ['none', 'left', 'right'], 'adjusts' => ['left', 'right']] as $name => $known) {
            if (!\in_array($text($name), $known, true)) {
                $problems->add($name, 'Choose one of the offered values.');
            }
        }
        $hand =
            '' === $text('hand_within')
                ? 0
                : $problems->attempt(
                    static fn (): int => abs(
                        AmountInput::read($text('hand_within'), Currency::of($currency), 'hand_within')->minor,
                    ),
                );
        $near = self::near($text('within'), $text('days'), $currency, $problems);
        $problems->refuse();
        \assert(null !== $sources['left'] && null !== $sources['right']);
        [$left, $right] = [$sources['left'], $sources['right']];
        if (!\in_array($desk->id(), [$left->companyId, $right->companyId], true)) {
            throw Refused::because('left.company', 'One of the two sides is of this company; choose it.');
        }

        return $this->transaction->run(function () use (
            $desk,
            $text,
            $id,
            $left,
            $right,
            $shared,
            $currency,
            $hand,
            $near,
        ): int {
            $set = null === $id ? null : $this->lock->set($desk->actor, $id);
            if (null !== $set) {
                $this->lock->mustNotRun($set);
                if ((string) $set->version !== $text('version')) {
                    throw Refused::because('', 'Somebody else changed this set in the meantime; load the page anew.');
                }
            }
            if (null !== $set && self::isAnother($set, $left, $right, $currency, $text)) {
                $this->lock->mustBeFree($set);
            }
            $set ??= new PairingSet($desk->id(), '', [], [], $currency, $desk->actor->userId);
            $set->name = $text('name');
            [$set->leftSource, $set->rightSource, $set->currency] = [$left->raw(), $right->raw(), $currency];
            $others = array_values(array_diff([$left->companyId, $right->companyId], [$set->companyId]));
            $set->otherCompanyId = $others[0] ?? null;
            [$set->sharedFields, $set->turned, $set->adjusts] = [$shared, $text('turned'), $text('adjusts')];
            [$set->amountWithin, $set->percentWithin, $set->daysWithin] = $near;
            [$set->handWithin, $set->groupByField] = [$hand ?? 0, mb_substr($text('group_by'), 0, 40)];
            $set->showsOther = '' !== $text('shows_other');
            $this->entities->persist($set);
            $this->entities->flush();
            $this->history->note(
                $desk->actor,
                'pairing_set',
                $set->id(),
                null === $id ? 'added' : 'changed',
                $set->name,
            );

            return $set->id();
        });
    }

    /**
     * Whether its rows would be others, or mean something else: columns and the first day may change, as paired rows stand as they were.
     *
     * @param \Closure(string): string $text
     */
    private static function isAnother(
        PairingSet $set,
        Source $left,
        Source $right,
        string $currency,
        \Closure $text,
    ): bool {
        return !$set->source('left')->isOf($left)
            || !$set->source('right')->isOf($right)
            || [$set->currency, $set->turned, $set->adjusts] !== [$currency, $text('turned'), $text('adjusts')];
    }

    public function retire(Desk $desk, int $id, bool $retired): void
    {
        $this->transaction->run(function () use ($desk, $id, $retired): void {
            $set = $this->lock->set($desk->actor, $id);
            $this->lock->mustNotRun($set);
            $set->retired = $retired;
            $this->history->note($desk->actor, 'pairing_set', $id, $retired ? 'retired' : 'in use again');
        });
    }

    /**
     * How closely rows agree where a rule says nothing else: what a new rule begins with.
     *
     * @return array{int, ?string, ?int} amount, percent, days
     */
    private static function near(string $within, string $days, string $currency, ProblemList $problems): array
    {
        [$amount, $percent] = Clauses::within($within, $currency, $problems);
        if ('' !== $days && 1 !== preg_match('/\A\d{1,3}\z/', $days)) {
            $problems->add('days', 'Days are a whole number up to 999, or empty for any.');
        }

        return [
            Money::parse($amount, Currency::of($currency), 'within')->minor,
            '' === $percent ? null : $percent,
            1 === preg_match('/\A\d{1,3}\z/', $days) ? (int) $days : null,
        ];
    }

    /**
     * @param array<mixed> $raw
     *
     * @return list<array{name: string, left: string, right: string}>
     */
    private static function shared(array $raw, ?Source $left, ?Source $right, ProblemList $problems): array
    {
        $shared = [];
        foreach (
            \is_array($raw['fields'] ?? null) ? \array_slice($raw['fields'], 0, self::MOST_FIELDS) : [] as $k => $row
        ) {
            $text = (new Fields(\is_array($row) ? $row : []))->text(...);
            if ('' === $text('left').$text('right')) {
                continue;
            }
            foreach (['left' => $left, 'right' => $right] as $side => $source) {
                if (null !== $source && !\in_array($text($side), $source->fields(), true)) {
                    $problems->add("fields.$k.$side", \sprintf('Choose a field of the %s side.', $side));
                }
            }
            $shared[] = [
                'name' => mb_substr('' === $text('name') ? $text('right') : $text('name'), 0, 40),
                'left' => $text('left'),
                'right' => $text('right'),
            ];
        }
        if (\count(array_unique(array_column($shared, 'name'))) !== \count($shared)) {
            $problems->add('fields', 'Two fields that correspond have the same name; give each its own.');
        }

        return $shared;
    }
}
