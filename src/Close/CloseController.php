<?php

declare(strict_types=1);

namespace Nelbix\App\Close;

use Nelbix\App\Close\Journal\ManualEntriesQuery;
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

/** Trial balance, accounts and journal entries. */
#[Route('/{company}', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class CloseController extends Screen
{
    public function __construct(private readonly BooksDay $booksDay)
    {
    }

    #[Route('/close/trial-balance', name: 'trial_balance', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function trialBalance(Desk $desk, Request $request, TrialBalanceQuery $query): Response
    {
        [$asOf, $error] = $this->asOf($desk, $request);
        $rows = $query->of($desk->id(), $asOf);
        if (self::wantsFile($request)) {
            $d = static fn (int $v): string => Money::of($v, $desk->company->baseCurrency)->decimal();

            return $this->exported(
                $request,
                'trial-balance-'.$asOf->iso(),
                ['account', 'name', 'debit', 'credit', 'balance'],
                array_map(
                    static fn (array $r): array => [
                        $r['account'],
                        $r['name'],
                        $d($r['debit']),
                        $d($r['credit']),
                        $d($r['balance']),
                    ],
                    $rows,
                ),
            );
        }

        return $this->render('close/trial_balance.html.twig', ['rows' => $rows, 'as_of' => $asOf, 'error' => $error]);
    }

    #[Route('/close/account/{id<\d+>}', name: 'account', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function account(Desk $desk, int $id, Request $request, AccountQuery $accounts): Response
    {
        $account =
            $accounts->find($desk->id(), $id) ??
            throw $this->createNotFoundException('There is no such account in this company.');
        [$asOf, $error] = $this->asOf($desk, $request);

        return $this->render('close/account.html.twig', [
            'account' => $account,
            'as_of' => $asOf,
            'error' => $error,
            'balance' => $accounts->balance($id, $asOf),
            'rows' => $accounts->lines($id, $asOf),
        ]);
    }

    #[Route('/close/entry/{number}', name: 'entry', requirements: ['number' => '[A-Z0-9-]{1,30}'], methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function entry(Desk $desk, string $number, EntriesOfNumber $query, ManualEntriesQuery $manual): Response
    {
        $entries = $query->of($desk->id(), $number);
        if ([] === $entries) {
            throw $this->createNotFoundException(\sprintf('There is no entry or document %s.', $number));
        }

        return $this->render('close/entry.html.twig', [
            'number' => $number,
            'entries' => $entries,
            'by_hand' => $manual->entry($desk->id(), $number),
        ]);
    }

    /** @return array{Day, ?string} */
    private function asOf(Desk $desk, Request $request): array
    {
        try {
            return [$this->booksDay->asked($desk->id(), $request->query, 'as_of', $desk->today), null];
        } catch (Refused $e) {
            return [$desk->today, $e->getMessage()];
        }
    }
}
