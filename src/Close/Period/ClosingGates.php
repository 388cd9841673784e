<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Period;

use Nelbix\App\Close\Revaluation\ProposeRevaluation;
use Nelbix\App\Close\TieOut\SignOffs;
use Nelbix\App\Close\TieOut\TieOutQuery;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Words;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;

/** What stands in the way of closing a period, gate by gate in the order in which they are closed. */
final readonly class ClosingGates
{
    /**
     * Key => what stands there, what is said when nothing does, where it is mended, and what one needs to go there. A key with %s stands
     * once for each side, as its words do.
     */
    private const GATES = [
        'batches_%s' => ['%s batches are open', 'every %s batch is posted', 'batches', Permission::SeeLedger, []],
        'drafts_%s' => [
            '%s drafts are left',
            'no %s draft is left',
            'documents',
            Permission::SeeLedger,
            ['state' => 'draft'],
        ],
        'lots' => ['files are not taken over whole', 'every file is taken over whole', 'import', Permission::Enter, []],
        'recurring_%s' => [
            'recurring %s drafts are not made',
            'every recurring %s draft is made',
            'recurring',
            Permission::SeeLedger,
            [],
        ],
        'journal' => [
            'manual entries are not posted',
            'every manual entry is posted',
            'journal',
            Permission::SeeLedger,
            [],
        ],
        'entries' => [
            'recurring entries are not made',
            'every recurring entry is made',
            'journal',
            Permission::SeeLedger,
            [
                'show' => 'recurring',
            ],
        ],
        'goods' => [
            'deliveries are not invoiced',
            'every delivery is invoiced',
            'not_invoiced',
            Permission::SeeDeliveries,
            [],
        ],
        'held_%s' => [
            '%s documents are held',
            'no %s document is held',
            'documents',
            Permission::SeeLedger,
            ['state' => 'held'],
        ],
        'runs' => ['payment runs are not posted', 'every run is posted', 'proposals', Permission::SeePayables, []],
        'refunds' => [
            'refunds are on the way',
            'no refund is on its way',
            'items',
            Permission::SeePayables,
            ['side' => 'payables'],
        ],
        'unapplied_%s' => [
            'unapplied %s sums wait for a place',
            'all %s money is placed',
            'items',
            Permission::SeeLedger,
            [
                'only' => 'unapplied',
            ],
        ],
        'unidentified' => [
            'receipts are unidentified',
            'every payer is known',
            'items',
            Permission::SeeReceivables,
            [
                'side' => 'receivables',
                'only' => 'unidentified',
            ],
        ],
        'claims' => [
            'claims are without a person',
            'every claim has a person',
            'claims',
            Permission::SeeReceivables,
            [],
        ],
        'statements' => [
            'bank accounts are not reconciled',
            'every bank account is reconciled',
            'bank',
            Permission::SeeLedger,
            [],
        ],
        'lines' => [
            'bank lines are without a place',
            'every bank line has its place',
            'bank',
            Permission::SeeLedger,
            [],
        ],
        'pairs' => [
            'rows are left over in pairing sets',
            'nothing is left over in pairing sets',
            'pairing',
            Permission::SeeLedger,
            [],
        ],
        'revaluation' => [
            'foreign items are not revalued',
            'nothing is left to revalue',
            'revaluation',
            Permission::SeeLedger,
            [],
        ],
        'tie_out' => ['control accounts are off', 'every control account ties', 'tie_out', Permission::SeeLedger, []],
        'signed' => [
            'control accounts are not signed off',
            'every control account is signed off',
            'tie_out',
            Permission::SeeLedger,
            [],
        ],
        'gaps' => ['numbers are missing', 'no number is missing', 'number_gaps', Permission::SeeLedger, []],
    ];

    /** Their pages show things as of a day. */
    private const AS_OF = ['tie_out', 'revaluation', 'items', 'not_invoiced'];

    public function __construct(
        private ClosingCounts $counts,
        private TieOutQuery $tieOut,
        private SignOffs $signOffs,
        private NumberGaps $gaps,
        private ProposeRevaluation $revaluation,
    ) {
    }

    /** @return list<ClosingGate> all of them; those with a count of zero are through */
    public function of(int $companyId, string $base, int $year, Day $last): array
    {
        $found = [...$this->counts->of($companyId, $base, $last), ...$this->tied($companyId, $last)];
        $found['gaps'] = [array_sum(array_column($this->gaps->of($companyId, $year), 'missing')), null];
        if (($found['revaluation'][0] ?? 0) > 0 && !$this->differs($companyId, $base, $last)) {
            $found['revaluation'] = [0, null];
        }
        $gates = [];
        foreach (self::GATES as $key => [$text, $clear, $route, $sees, $parameters]) {
            $parameters += \in_array($route, self::AS_OF, true) ? ['as_of' => $last->iso()] : [];
            $parameters += 'gaps' === $key ? ['year' => (string) $year] : [];
            foreach (str_contains($key, '%s') ? Side::cases() : [null] as $side) {
                $word = $side?->partyWord() ?? '';
                [$count, $amount] = $found[\sprintf($key, $side->value ?? '')] ?? [0, null];
                $gates[] = new ClosingGate(
                    \sprintf($key, $side->value ?? ''),
                    Words::agree($count, \sprintf($text, $word)),
                    \sprintf($clear, $word),
                    $count,
                    $amount,
                    $route,
                    null === $side ? $sees : Permission::see($side),
                    null === $side ? $parameters : ['side' => $side->value, ...$parameters],
                );
            }
        }

        return $gates;
    }

    /** Whether a revaluation would post anything, or lacks a rate: items whose rate has not changed stand in nobody's way. */
    private function differs(int $companyId, string $base, Day $last): bool
    {
        try {
            $proposed = $this->revaluation->of($companyId, $base, $last);
        } catch (Refused) {
            return true;
        }

        return [] !== $proposed->missing || !$proposed->entry->isEmpty();
    }

    /** @return array<string, array{int, ?int}> */
    private function tied(int $companyId, Day $last): array
    {
        $off = $unsigned = [];
        $signed = $this->signOffs->last($companyId, Day::of('2199-12-31'));
        foreach ($this->tieOut->of($companyId, $last, false) as $r) {
            if (0 !== $r['tie']->difference()) {
                $off[] = abs($r['tie']->difference());
            }
            if (!isset($signed[$r['id']]) || $signed[$r['id']]->day->isBefore($last)) {
                $unsigned[] = $r['id'];
            }
        }

        return ['tie_out' => [\count($off), array_sum($off)], 'signed' => [\count($unsigned), null]];
    }
}
