<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\People\Colleagues;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Claims of customers, the decision on what somebody asks to let go, and the report of what was. */
#[Route('/{company}/receivables', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class ClaimController extends Screen
{
    public function __construct(private readonly ClaimQuery $claims, private readonly BooksDay $booksDay)
    {
    }

    #[Route('/claims', name: 'claims', methods: ['GET'])]
    #[Needs(Permission::SeeReceivables)]
    public function list(Desk $desk, Request $request, Colleagues $colleagues): Response
    {
        $person = mb_substr((string) $request->query->get('person', ''), 0, 60);
        $rows = $this->claims->open($desk->id(), $person);
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'claims',
                [
                    'number',
                    'of',
                    'customer',
                    'name',
                    'kind',
                    'text',
                    'currency',
                    'open',
                    'due',
                    'claimed_on',
                    'follow_up',
                    'person',
                    'state',
                ],
                array_map(
                    static fn (array $r): array => [
                        (string) $r['number'],
                        (string) $r['of_number'],
                        (string) $r['code'],
                        (string) $r['name'],
                        null === $r['write_off_as'] ? (string) $r['kind'] : (string) $r['write_off_as'],
                        (string) $r['text'],
                        (string) $r['currency'],
                        Money::of((int) $r['open'], (string) $r['currency'])->decimal(),
                        (string) $r['due_date'],
                        (string) $r['posting_date'],
                        (string) $r['follow_up_on'],
                        (string) $r['person'],
                        (string) $r['state'],
                    ],
                    $rows,
                ),
            );
        }

        return $this->render('money/claims.html.twig', [
            'rows' => $rows,
            'person' => $person,
            'people' => $colleagues->of($desk->id()),
        ]);
    }

    #[Route('/claim/{id<\d+>}/decide', name: 'claim_decide', methods: ['POST'])]
    #[Needs(Permission::Approve)]
    public function decide(Desk $desk, int $id, Request $request, DecideWriteOff $decide): Response
    {
        return $this->act(
            static function () use ($desk, $id, $request, $decide): string {
                $approve = 'approve' === $request->request->get('_action');
                $decide->decide(
                    $desk->actor,
                    $id,
                    self::int($request->request, '_seen'),
                    $approve,
                    mb_substr((string) $request->request->get('why', ''), 0, 255),
                );

                return $approve
                    ? 'Approved: it is written off. Undo it on the page of the claim.'
                    : 'Refused: it dropped back to the item it came from.';
            },
            'claims',
            ['company' => $desk->company->code],
        );
    }

    #[Route('/written-off', name: 'written_off', methods: ['GET'])]
    #[Needs(Permission::SeeReceivables)]
    public function writtenOff(Desk $desk, Request $request): Response
    {
        $error = null;
        $read = function (string $key, Day $else) use ($desk, $request, &$error): Day {
            $typed = trim((string) $request->query->get($key, ''));
            try {
                return '' === $typed ? $else : $this->booksDay->input($desk->id())->read($typed, $key);
            } catch (Refused $e) {
                $error = $e->getMessage();

                return $else;
            }
        };
        $from = $read('from', Day::of(\sprintf('%04d-01-01', $desk->today->year)));
        $through = $read('through', $desk->today);
        $rows = $this->claims->writtenOff($desk->id(), $from, $through);
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'written-off',
                [
                    'date',
                    'customer',
                    'name',
                    'item',
                    'as',
                    'reason',
                    'account',
                    'currency',
                    'amount',
                    'amount_base',
                    'by',
                    'asked_by',
                ],
                array_map(
                    static fn (array $r): array => [
                        (string) $r['settled_on'],
                        (string) $r['code'],
                        (string) $r['name'],
                        (string) $r['number'],
                        (string) $r['kind'],
                        (string) $r['reason'],
                        (string) $r['account'],
                        (string) $r['currency'],
                        Money::of(-(int) $r['amount'], (string) $r['currency'])->decimal(),
                        Money::of(-(int) $r['amount_base'], $desk->company->baseCurrency)->decimal(),
                        (string) $r['person'],
                        (string) $r['asked_by'],
                    ],
                    $rows,
                ),
            );
        }

        return $this->render('money/written_off.html.twig', [
            'rows' => $rows,
            'from' => $from,
            'through' => $through,
            'error' => $error,
        ]);
    }
}
