<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Nelbix\App\Parties\PartyProfile;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** A proposal side by side with what other criteria would make of it. */
#[Route('/{company}/payables/proposal/{id<\d+>}/compare', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class CompareController extends ProposalScreen
{
    private const FIELDS = [
        'pay_date',
        'due_through',
        'again_on',
        'method',
        'vendors',
        'groups',
        'if_late',
        'at_least',
        'cash',
        'per_invoice',
    ];

    #[Route('', name: 'proposal_compare', methods: ['GET'])]
    #[Needs(Permission::SeePayables)]
    public function compare(
        Desk $desk,
        int $id,
        Request $request,
        CriteriaReader $reader,
        PayHabits $habits,
        Comparison $comparison,
        PartyProfile $profile,
    ): Response {
        $proposal = $this->proposal($desk, $id);
        $raw = $request->query->all();
        $own =
            [
                'pay_date' => $proposal->payDate->iso(),
                'due_through' => $proposal->dueThrough->iso(),
                'again_on' => $proposal->againOn->iso(),
                'method' => $proposal->method,
            ] + $proposal->criteria;
        $other = $problems = null;
        try {
            $asked =
                \is_string($raw['habit'] ?? null) && '' !== $raw['habit']
                    ? $habits->start($desk->actor, $raw['habit'], $proposal->payDate)
                    : $raw + $own;
            ['criteria' => $criteria] = $reader->read(
                $desk->actor,
                ['bank' => $proposal->criteria['bank'] ?? ''] + $asked,
            );
            $other = $comparison->of($desk->actor, $id, $criteria);
        } catch (Refused $e) {
            $problems = $e->problems;
        }
        if (null !== $other && self::wantsFile($request)) {
            $d = static fn (?int $minor, string $currency): string => null === $minor
                ? ''
                : Money::of($minor, $currency)->decimal();

            return $this->exported(
                $request,
                strtolower($proposal->number).'-compared',
                [
                    'vendor',
                    'name',
                    'document',
                    'their_number',
                    'due',
                    'currency',
                    'open',
                    'here',
                    'here_why',
                    'there',
                    'there_why',
                ],
                array_map(
                    static fn (array $r): array => [
                        $r['code'],
                        $r['name'],
                        $r['number'],
                        $r['their_number'],
                        $r['due_date'],
                        $r['currency'],
                        $d($r['open'], $r['currency']),
                        $d($r['here'], $r['currency']),
                        $r['here_why'],
                        $d($r['there'], $r['currency']),
                        $r['there_why'],
                    ],
                    $other['rows'],
                ),
            );
        }
        $form = $asked ?? $raw;
        foreach (
            ['pay_date' => 'payDate', 'due_through' => 'dueThrough', 'again_on' => 'againOn'] as $key => $property
        ) {
            $form[$key] = isset($criteria) ? $criteria->{$property}->long() : $form[$key] ?? '';
        }

        return $this->render(
            'payables/compare.html.twig',
            [
                'proposal' => $proposal,
                'form' => array_map(
                    static fn (mixed $v): string => \is_string($v) ? $v : '',
                    array_intersect_key($form, array_flip(self::FIELDS)),
                ),
                'errors' => self::byField($problems ?? []),
                'other' => $other,
                'currency' => isset($criteria) ? $criteria->currency : $desk->company->baseCurrency,
                'habits' => $habits->of($desk->actor),
                'groups' => $profile->groups($desk->id(), Side::Payables),
                'methods' => CriteriaReader::choices(),
                'asked' => array_filter(
                    array_intersect_key($raw, array_flip(['habit', ...self::FIELDS])),
                    is_string(...),
                ),
            ],
            new Response(null, null === $problems ? 200 : 422),
        );
    }
}
