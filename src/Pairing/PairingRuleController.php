<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Pairing\Filter;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Pairing rules: each an editable sentence, tried on the rows that are there before it is switched on. */
#[Route('/{company}/pairing/{id<\d+>}/rule', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class PairingRuleController extends Screen
{
    public function __construct(
        private readonly PairingDesk $pairing,
        private readonly PairingQuery $query,
        private readonly SaveRule $saveRule,
        private readonly TryRule $tryRule,
    ) {
    }

    #[Route('/new', name: 'pairing_rule_new', methods: ['GET'])]
    #[Needs(Permission::PairRecords)]
    public function enter(Desk $desk, int $id): Response
    {
        $set = $this->pairing->set($desk, $id);

        return $this->page(
            $desk,
            $set,
            null,
            [
                'left' => 'one',
                'right' => 'one',
                'agree' => $set->sharedNames(),
                'within' => $set->within(),
                'days' => (string) $set->daysWithin,
                'sole' => '1',
                'certain' => '1',
            ],
            [],
        );
    }

    #[Route('/{rule<\d+>}', name: 'pairing_rule', methods: ['GET'])]
    #[Needs(Permission::PairRecords)]
    public function rule(Desk $desk, int $id, int $rule): Response
    {
        $set = $this->pairing->set($desk, $id);
        $record = $this->one($id, $rule);
        $c = \is_array($record['clauses']) ? $record['clauses'] : [];
        $percent = \is_string($c['percent'] ?? null) ? $c['percent'] : '';
        $amount = \is_string($c['amount'] ?? null) ? $c['amount'] : '';
        $zero = '' === trim($amount, '0.');

        return $this->page(
            $desk,
            $set,
            $record,
            [
                ...$c,
                'within' => '' === $percent ? ($zero ? '' : $amount) : $percent.' %',
                'version' => (string) $record['version'],
            ],
            [],
        );
    }

    /** @return array<string, mixed> */
    private function one(int $set, int $rule): array
    {
        foreach ($this->query->rules($set) as $r) {
            if ((int) $r['id'] === $rule) {
                return $r;
            }
        }
        throw $this->createNotFoundException('There is no such rule in this set.');
    }

    /**
     * @param array<string, mixed>|null $rule
     * @param array<mixed> $form
     * @param list<Problem> $problems
     */
    private function page(Desk $desk, PairingSet $set, ?array $rule, array $form, array $problems): Response
    {
        $filters = [];
        foreach (\is_array($form['filters'] ?? null) ? $form['filters'] : [] as $f) {
            $filters[] = array_map(
                static fn (mixed $v): string => \is_string($v) ? $v : '',
                (\is_array($f) ? $f : []) + ['side' => 'both', 'field' => '', 'operation' => 'is', 'value' => ''],
            );
        }

        return $this->render(
            'pairing/rule.html.twig',
            [
                'set' => $set,
                'rule' => $rule,
                'form' => $form,
                'filters' => \array_slice(
                    array_pad($filters, 2, ['side' => 'both', 'field' => '', 'operation' => 'is', 'value' => '']),
                    0,
                    6,
                ),
                'problems' => $problems,
                'errors' => self::byField($problems),
                'shared' => $set->sharedNames(),
                'left' => $set->source('left')->fields(),
                'right' => $set->source('right')->fields(),
                'operations' => Filter::OPERATIONS,
                'days' => Clauses::DAYS,
            ],
            new Response(null, [] === $problems ? 200 : 422),
        );
    }

    /** How many it would take of the rows that are over now, with ten examples. */
    #[Route('/try', name: 'pairing_rule_try', methods: ['POST'])]
    #[Needs(Permission::PairRecords)]
    public function try(Desk $desk, int $id, Request $request): Response
    {
        $set = $this->pairing->set($desk, $id);
        try {
            $tried = $this->tryRule->try($set, SaveRule::clauses($set, $request->request->all()));
            $said = '';
        } catch (Refused $e) {
            [$tried, $said] = [null, $e->getMessage()];
        }

        return $this->render('pairing/_tried.html.twig', [
            'set' => $set,
            'tried' => $tried,
            'said' => $said,
            'sees' => [
                'left' => $this->pairing->sees($desk, $set, 'left'),
                'right' => $this->pairing->sees($desk, $set, 'right'),
            ],
        ]);
    }

    #[Route('', name: 'pairing_rule_add', methods: ['POST'])]
    #[Needs(Permission::PairRecords)]
    public function add(Desk $desk, int $id, Request $request): Response
    {
        return $this->save($desk, $id, null, $request);
    }

    #[Route('/{rule<\d+>}', name: 'pairing_rule_save', methods: ['POST'])]
    #[Needs(Permission::PairRecords)]
    public function change(Desk $desk, int $id, int $rule, Request $request): Response
    {
        return $this->save($desk, $id, $rule, $request);
    }

    private function save(Desk $desk, int $id, ?int $rule, Request $request): Response
    {
        $set = $this->pairing->set($desk, $id);
        $record = null === $rule ? null : $this->one($id, $rule);
        try {
            $saved = $this->saveRule->save($desk->actor, $id, $request->request->all(), $rule);
            if ('on' === $request->request->get('_action')) {
                $this->saveRule->change($desk->actor, $id, $saved, 'on');
            }
        } catch (Refused $e) {
            return $this->page($desk, $set, $record, $request->request->all(), $e->problems);
        }
        $this->say('The rule is kept.');

        return $this->redirectToRoute('pairing_set', ['company' => $desk->company->code, 'id' => $id], 303);
    }

    #[Route('/{rule<\d+>}/change', name: 'pairing_rule_change', methods: ['POST'])]
    #[Needs(Permission::PairRecords)]
    public function order(Desk $desk, int $id, int $rule, Request $request): Response
    {
        $this->pairing->set($desk, $id);
        $what = (string) $request->request->get('what', '');

        return $this->act(
            function () use ($desk, $id, $rule, $what): ?string {
                if (!\in_array($what, ['up', 'down', 'on', 'off', 'retire'], true)) {
                    throw Refused::because('', 'Say what becomes of the rule.');
                }
                $this->saveRule->change($desk->actor, $id, $rule, $what);

                return null;
            },
            'pairing_set',
            ['company' => $desk->company->code, 'id' => $id],
        );
    }
}
