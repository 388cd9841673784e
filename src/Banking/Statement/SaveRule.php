<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Brick\Math\BigDecimal;
use Brick\Math\Exception\MathException;
use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Parties\Party;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/** Adds, changes, moves or retires a reading rule. */
final readonly class SaveRule
{
    private const MOST_PARTS = 20;

    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private BankAccounts $banks,
        private Chart $chart,
        private CodeBook $codes,
        private History $history,
    ) {
    }

    /**
     * @param array<mixed> $raw name, words, direction, bank, least, most, party, side, lines[] (account, percent, tax, cost_center,
     *                          department, project), version
     *
     * @throws Refused with every problem
     */
    public function save(Actor $actor, array $raw, ?int $id): int
    {
        return $this->transaction->run(function () use ($actor, $raw, $id): int {
            $read = $this->read($actor, $raw);
            $rule = null === $id ? null : $this->rule($actor, $id);
            if (null !== $rule && (string) $rule->version !== (new Fields($raw))->text('version')) {
                throw Refused::because('', 'Somebody else changed this rule in the meantime; load the page anew.');
            }
            $before = null === $rule ? [] : self::words($rule);
            $rule ??= new RuleRecord($actor->companyId, $this->lastPlace($actor) + 1, '', '', 0, []);
            [$rule->name, $rule->words, $rule->direction] = [$read['name'], $read['words'], $read['direction']];
            [$rule->parts, $rule->bankAccountId] = [$read['parts'], $read['bank']];
            [$rule->least, $rule->most] = [$read['least'], $read['most']];
            $this->entities->persist($rule);
            $this->entities->flush();
            $this->history->change($actor, 'reading_rule', $rule->id(), $before, self::words($rule));

            return $rule->id();
        });
    }

    /** One place up or down among those in use. */
    public function move(Actor $actor, int $id, int $by): void
    {
        $this->transaction->run(function () use ($actor, $id, $by): void {
            $rules = $this->entities
                ->getRepository(RuleRecord::class)
                ->findBy(['companyId' => $actor->companyId, 'retired' => false], ['place' => 'ASC', 'id' => 'ASC']);
            $this->rule($actor, $id);
            $at = array_search($id, array_map(static fn (RuleRecord $r): int => $r->id(), $rules), true);
            $to = false === $at ? -1 : $at + ($by <=> 0);
            if (!isset($rules[$to])) {
                return;
            }
            [$rules[$at], $rules[$to]] = [$rules[$to], $rules[$at]];
            foreach (array_values($rules) as $place => $rule) {
                $rule->place = $place + 1;
            }
            $this->history->note($actor, 'reading_rule', $id, $by < 0 ? 'moved up' : 'moved down');
        });
    }

    public function retire(Actor $actor, int $id, bool $retired): void
    {
        $this->transaction->run(function () use ($actor, $id, $retired): void {
            $rule = $this->rule($actor, $id);
            if ($rule->retired !== $retired) {
                $rule->retired = $retired;
                $this->history->note($actor, 'reading_rule', $id, $retired ? 'retired' : 'in use again');
            }
        });
    }

    /** @throws Refused when there is none in this company */
    private function rule(Actor $actor, int $id): RuleRecord
    {
        $rule = $this->entities->find(RuleRecord::class, $id, LockMode::PESSIMISTIC_WRITE);
        if (null === $rule || $rule->companyId !== $actor->companyId) {
            throw Refused::because('', 'There is no such rule in this company.', ProblemKind::Unknown);
        }
        $this->entities->refresh($rule, LockMode::PESSIMISTIC_WRITE);

        return $rule;
    }

    private function lastPlace(Actor $actor): int
    {
        return (int) $this->entities
            ->getConnection()
            ->fetchOne('SELECT MAX(place) FROM reading_rule WHERE company_id = ?', [$actor->companyId]);
    }

    /**
     * @param array<mixed> $raw
     *
     * @return array{name: string, words: string, direction: int, bank: ?int, least: ?int, most: ?int, parts: array<string, mixed>}
     */
    public function read(Actor $actor, array $raw): array
    {
        $problems = new ProblemList();
        $text = (new Fields($raw))->text(...);
        $words = RuleCounts::words($text('words'));
        if ([] === $words || max(array_map(mb_strlen(...), $words)) < 3) {
            $problems->add(
                'words',
                'Type the words that the line must have, three letters at least; commas between them.',
                ProblemKind::Missing,
            );
        }
        if (mb_strlen($text('words')) > 255) {
            $problems->add('words', 'The words are longer than 255 characters; choose fewer.');
        }
        $bank =
            '' === $text('bank')
                ? null
                : $problems->attempt(fn () => $this->banks->named($actor->companyId, $text('bank')));
        $currency = Currency::of($bank->currency ?? $actor->baseCurrency);
        $amount = static fn (string $field): ?int => '' === $text($field)
            ? null
            : $problems->attempt(static fn (): int => abs(AmountInput::read($text($field), $currency, $field)->minor));
        [$least, $most] = [$amount('least'), $amount('most')];
        if (null !== $least && null !== $most && $least > $most) {
            $problems->add('most', 'The upper amount is below the lower one.');
        }
        $parts =
            '' === $text('party') ? $this->accounts($actor, $raw, $problems) : $this->party($actor, $text, $problems);
        $problems->refuse();

        return [
            'name' => mb_substr('' === $text('name') ? implode(', ', $words) : $text('name'), 0, 120),
            'words' => implode(', ', $words),
            'direction' => match ($text('direction')) {
                'in' => 1,
                'out' => -1,
                default => 0,
            },
            'bank' => $bank?->id,
            'least' => $least,
            'most' => $most,
            'parts' => $parts,
        ];
    }

    /**
     * @param \Closure(string): string $text
     *
     * @return array<string, string>
     */
    private function party(Actor $actor, \Closure $text, ProblemList $problems): array
    {
        $side = Side::tryFrom($text('side')) ?? Side::Receivables;
        $party = $this->entities->getRepository(Party::class)->findOneBy([
            'companyId' => $actor->companyId,
            'side' => $side,
            'code' => $text('party'),
            'retired' => false,
        ]);
        if (null === $party) {
            $problems->add(
                'party',
                \sprintf('There is no %s “%s” in use.', $side->partyWord(), mb_strimwidth($text('party'), 0, 30, '…')),
                ProblemKind::Unknown,
            );
        }

        return ['party' => $party->code ?? '', 'side' => $side->value];
    }

    /**
     * @param array<mixed> $raw
     *
     * @return array{accounts: list<array<string, string>>}
     */
    private function accounts(Actor $actor, array $raw, ProblemList $problems): array
    {
        $of = [];
        $percents = BigDecimal::zero();
        $rows = \is_array($raw['lines'] ?? null) ? \array_slice($raw['lines'], 0, self::MOST_PARTS) : [];
        foreach ($rows as $k => $row) {
            $text = (new Fields(\is_array($row) ? $row : []))->text(...);
            if ('' === $text('account').$text('percent').$text('tax')) {
                continue;
            }
            $part = [
                'percent' => '' === $text('percent') ? '100' : str_replace(',', '.', rtrim($text('percent'), ' %')),
            ];
            try {
                $percent = BigDecimal::of($part['percent']);
                $percents = $percents->plus($percent);
                if (!$percent->isPositive() || $percent->isGreaterThan(100) || $percent->getScale() > 3) {
                    throw Refused::because('percent', '');
                }
            } catch (MathException|Refused) {
                $problems->add("lines.$k.percent", 'A percent lies above 0, up to 100, with three decimals at most.');
            }
            $account = $problems->attempt(
                fn (): int => $this->chart->ofLine($actor->companyId, $text('account'), 'account'),
                "lines.$k.",
            );
            $part['account'] = null === $account ? '' : $this->chart->account($actor->companyId, $account)['number'];
            $income = null !== $account && 'income' === $this->chart->account($actor->companyId, $account)['type'];
            $problems->attempt(
                fn () => $this->codes->taxCode(
                    $actor->companyId,
                    $income ? Side::Receivables : Side::Payables,
                    $text('tax'),
                    'tax',
                ),
                "lines.$k.",
            );
            foreach (['cost_center', 'department', 'project'] as $kind) {
                $problems->attempt(
                    fn () => $this->codes->analysis($actor->companyId, $kind, $text($kind), $kind),
                    "lines.$k.",
                );
                $part[$kind] = $text($kind);
            }
            $of[] = [...$part, 'tax' => $text('tax')];
        }
        if ([] === $of) {
            $problems->add(
                'lines.0.account',
                'Say where the line goes: an account, or a party above.',
                ProblemKind::Missing,
            );
        } elseif (!$percents->isEqualTo(100)) {
            $problems->add(
                'lines.0.percent',
                \sprintf('The percents add up to %s, not to 100.', $percents->stripTrailingZeros()),
            );
        }

        return ['accounts' => $of];
    }

    /** @return array<string, string> */
    private static function words(RuleRecord $rule): array
    {
        return [
            'name' => $rule->name,
            'words' => $rule->words,
            'direction' => [-1 => 'out', 0 => 'in or out', 1 => 'in'][$rule->direction],
            'amounts' => null === $rule->least && null === $rule->most ? '' : $rule->least.' to '.$rule->most,
            'place' => RuleParts::words($rule->parts),
        ];
    }
}
