<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Shares;
use Nelbix\Core\Placement\Find;

/** What a reading rule makes of an amount: a party's money, or shares of it on accounts. */
final readonly class RuleParts
{
    public function __construct(private Connection $db)
    {
    }

    /** @param array<mixed> $parts of RuleRecord */
    public function option(int $companyId, Find $find, array $parts): ?Option
    {
        $choice = $this->choice($companyId, $find->amount, $parts, $find->id);

        return null === $choice ? null : new Option($choice, self::words($parts), $find->reason);
    }

    /** @param array<mixed> $parts of RuleRecord */
    public function choice(int $companyId, int $amount, array $parts, int $rule): ?Choice
    {
        $side = Side::tryFrom((string) ($parts['side'] ?? ''));
        if (null !== $side && \is_string($parts['party'] ?? null)) {
            $party = $this->db->fetchOne(
                'SELECT id FROM party WHERE company_id = ? AND side = ? AND code = ? AND retired = 0',
                [$companyId, $side->value, $parts['party']],
            );

            return false === $party
                ? null
                : new Choice(
                    PartKind::Unapplied,
                    $amount,
                    \Nelbix\Core\Placement\FindKind::Rule,
                    side: $side,
                    party: (int) $party,
                    rule: $rule,
                );
        }
        $rows = \is_array($parts['accounts'] ?? null) ? array_values($parts['accounts']) : [];
        if ([] === $rows) {
            return null;
        }
        // percents as whole hundred-thousandths, so that they share the amount to the cent
        $weights = array_map(
            static fn (mixed $r): int => BigDecimal::of((string) (\is_array($r) ? $r['percent'] ?? '100' : '100'))
                ->multipliedBy(1000)
                ->toInt(),
            $rows,
        );
        $shares = Shares::split($amount, $weights);
        $of = [];
        foreach ($rows as $k => $r) {
            $text = static fn (string $key): string => \is_array($r) && \is_string($r[$key] ?? null) ? $r[$key] : '';
            $of[] = [
                'account' => $text('account'),
                'amount' => $shares[$k],
                'tax' => $text('tax'),
                'cost_center' => $text('cost_center'),
                'department' => $text('department'),
                'project' => $text('project'),
                'text' => '',
            ];
        }

        return new Choice(PartKind::Accounts, $amount, \Nelbix\Core\Placement\FindKind::Rule, parts: $of, rule: $rule);
    }

    /** @param array<mixed> $parts of RuleRecord */
    public static function words(array $parts): string
    {
        if (\is_string($parts['party'] ?? null)) {
            return $parts['party'].', unapplied';
        }
        $said = [];
        foreach (\is_array($parts['accounts'] ?? null) ? $parts['accounts'] : [] as $r) {
            if (\is_array($r)) {
                $said[] = trim(
                    (\count($parts['accounts']) > 1 ? ($r['percent'] ?? '').' % ' : '').
                        'account '.
                        ($r['account'] ?? '').
                        ('' === ($r['tax'] ?? '') ? '' : ', tax '.$r['tax']).
                        ('' === ($r['cost_center'] ?? '') ? '' : ', '.$r['cost_center']),
                );
            }
        }

        return implode('; ', $said);
    }
}
