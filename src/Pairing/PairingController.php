<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Nelbix\App\People\HistoryQuery;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Work\JobQuery;
use Nelbix\Core\Money\Money;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Pairing sets: all of a company with their state, and one with its rows and pairs. */
#[Route('/{company}/pairing', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class PairingController extends Screen
{
    public function __construct(
        private readonly PairingQuery $query,
        private readonly PairingResult $result,
        private readonly PairingDesk $pairing,
        private readonly JobQuery $jobs,
        private readonly HistoryQuery $history,
    ) {
    }

    #[Route('', name: 'pairing', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function list(Desk $desk, SisterSets $sisters): Response
    {
        if ($desk->may(Permission::PairRecords)) {
            $sisters->ensure($desk->actor);
        }

        return $this->render('pairing/list.html.twig', ['sets' => $this->query->sets($desk->id())]);
    }

    #[Route('/{id<\d+>}', name: 'pairing_set', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function set(Desk $desk, int $id, Request $request): Response
    {
        $set = $this->pairing->set($desk, $id);
        $sees = [
            'left' => $this->pairing->sees($desk, $set, 'left'),
            'right' => $this->pairing->sees($desk, $set, 'right'),
        ];
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'pairing-'.$id,
                ['side', 'number', 'date', 'amount', 'pair', 'rule', 'state'],
                $this->cells($set, $sees),
            );
        }

        return $this->render('pairing/set.html.twig', [
            'set' => $set,
            'sees' => $sees,
            'words' => [
                'left' => $this->query->sourceWords($set->source('left')),
                'right' => $this->query->sourceWords($set->source('right')),
            ],
            'rules' => $this->query->rules($id),
            'asked' => array_map(
                static fn (array $p): array => [...$p, 'why' => Why::words($set, $p)],
                $this->result->pairs($set, ['asked']),
            ),
            'paired' => $this->result->pairs($set, PairState::standing()),
            'over' => ['left' => $this->result->over($set, 'left'), 'right' => $this->result->over($set, 'right')],
            'causes' => $this->result->causes($set),
            'runs' => $this->query->runs($id),
            'job' => $this->jobs->last('pairing', $id),
            'mine' => [
                'left' => $set->source('left')->companyId === $desk->id(),
                'right' => $set->source('right')->companyId === $desk->id(),
            ],
            'set_off' => $this->query->setOff(
                $set->source($set->source('left')->companyId === $desk->id() ? 'left' : 'right'),
            ),
            'history' => $this->history->of($set->companyId, 'pairing_set', $id),
            'days' => Clauses::DAYS,
        ]);
    }

    /** Both rails and what joins them, for the drawing. */
    #[Route('/{id<\d+>}/loom', name: 'pairing_loom', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function loom(Desk $desk, int $id): Response
    {
        $this->pairing->set($desk, $id);

        return new JsonResponse($this->result->loom($id));
    }

    /**
     * @param array{left: bool, right: bool} $sees
     *
     * @return iterable<list<string>>
     */
    private function cells(PairingSet $set, array $sees): iterable
    {
        foreach ($this->result->pairs($set, [...PairState::standing(), 'asked'], 100_000) as $p) {
            foreach (['left', 'right'] as $side) {
                foreach (\is_array($p[$side]) ? $p[$side] : [] as $r) {
                    yield self::cell(
                        $set,
                        $side,
                        $r,
                        $sees[$side],
                        (string) $p['id'],
                        (string) $p['rule_number'],
                        (string) $p['state'],
                    );
                }
            }
        }
        foreach (['left', 'right'] as $side) {
            foreach ($this->result->over($set, $side) as $group) {
                foreach ($group['rows'] as $r) {
                    yield self::cell($set, $side, $r, $sees[$side], '', '', $r['tied'] ? 'tie' : 'over');
                }
            }
        }
    }

    /**
     * @param array<string, mixed> $r
     *
     * @return list<string>
     */
    private static function cell(
        PairingSet $set,
        string $side,
        array $r,
        bool $seen,
        string $pair,
        string $rule,
        string $state,
    ): array {
        $amount = $seen ? Money::of((int) $r['amount'], $set->currency)->decimal() : '';

        return [$side, (string) $r['number'], (string) $r['dated'], $amount, $pair, $rule, $state];
    }
}
