<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Reconcile;

use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Banking\Statement\StatementQuery;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Paper;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** A bank account as of a day: two balances and what lies between them. */
#[Route('/{company}/bank/{bank<\d+>}/reconcile', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class ReconcileController extends Screen
{
    /** So many days are drawn. */
    private const DAYS = 45;

    public function __construct(
        private readonly BankAccounts $banks,
        private readonly ReconcileQuery $query,
        private readonly BooksDay $booksDay,
        private readonly StatementQuery $statements,
    ) {
    }

    #[Route('', name: 'reconcile', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function show(Desk $desk, int $bank, Request $request): Response
    {
        $account = $this->account($desk, $bank);
        [$day, $error] = $this->day($desk, $account, $request);
        $is = $this->query->of($account, $day);
        if (null !== $is && self::wantsFile($request)) {
            return $this->exported(
                $request,
                'reconciliation-'.$day->iso(),
                ['what', 'number', 'check', 'day', 'of', 'amount'],
                self::cells($is, $account->currency),
            );
        }

        return $this->render('banking/reconcile.html.twig', [
            'bank' => $account,
            'banks' => $this->statements->accounts($desk->id()),
            'as_of' => $day,
            'error' => $error,
            'is' => $is,
            'line' => null === $is ? null : TwoLines::of($this->query->byDay($account, $day, self::DAYS, $is), $is->onTheWay),
            'signed' => $this->query->signed($account),
        ]);
    }

    /** @return array{Day, ?string} the day that is asked for; else the last one that the statements reach */
    private function day(Desk $desk, BankRow $bank, Request $request): array
    {
        $reach = $this->query->reach($bank);
        $else = null === $reach || $reach->isAfter($desk->today) ? $desk->today : $reach;
        try {
            return [$this->booksDay->asked($desk->id(), $request->query, 'as_of', $else), null];
        } catch (Refused $e) {
            return [$else, $e->getMessage()];
        }
    }

    #[Route('/sign', name: 'reconcile_sign', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function sign(Desk $desk, int $bank, Request $request, SignOff $signOff): Response
    {
        $account = $this->account($desk, $bank);
        $asOf = (string) $request->request->get('as_of', '');

        return $this->act(
            static function () use ($desk, $account, $request, $signOff, $asOf): string {
                $day = Day::of($asOf, 'as_of');
                $signOff->sign(
                    $desk->actor,
                    $account->id,
                    $day,
                    (string) $request->request->get('seen', ''),
                    '' !== (string) $request->request->get('named', ''),
                );

                return \sprintf(
                    '%s is signed off as of %s. What stood there is kept as it was.',
                    $account->name,
                    $day->long(),
                );
            },
            'reconcile',
            ['company' => $desk->company->code, 'bank' => $account->id, 'as_of' => $asOf],
        );
    }

    #[Route('/{id<\d+>}/withdraw', name: 'reconcile_withdraw', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function withdraw(Desk $desk, int $bank, int $id, Request $request, SignOff $signOff): Response
    {
        $account = $this->account($desk, $bank);

        return $this->act(
            static function () use ($desk, $account, $id, $request, $signOff): string {
                $signOff->withdraw($desk->actor, $account->id, $id, (string) $request->request->get('why', ''));

                return 'The sign-off is taken back; it stays in the list with your reason.';
            },
            'reconcile',
            ['company' => $desk->company->code, 'bank' => $account->id],
        );
    }

    /** What was signed off, to be printed; or the account as it is on a day. */
    #[Route('/report', name: 'reconcile_report', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function report(Desk $desk, int $bank, Request $request, Paper $paper): Response
    {
        $account = $this->account($desk, $bank);
        $id = max(0, self::int($request->query, 'id'));
        $signed = 0 === $id ? null : $this->query->one($desk->id(), $account->id, $id);
        if (0 !== $id && null === $signed) {
            throw $this->createNotFoundException('There is no such sign-off of this account.');
        }
        $day = null === $signed ? $this->day($desk, $account, $request)[0] : Day::of((string) $signed['as_of']);
        $is =
            null === $signed
                ? $this->query->of($account, $day)
                : Reconciled::thawed($day, (array) json_decode((string) $signed['frozen'], true));
        if (null === $is) {
            throw $this->createNotFoundException('There is no statement of this account yet.');
        }

        return $paper->pdf(
            'banking/reconcile_pdf.html.twig',
            ['company' => $desk->company, 'bank' => $account, 'is' => $is, 'signed' => $signed],
            'reconciliation-'.$day->iso(),
        );
    }

    /** @return iterable<list<string>> */
    private static function cells(Reconciled $is, string $currency): iterable
    {
        $say = static fn (int $minor): string => Money::of($minor, $currency)->decimal();
        yield ['balance of the bank', '', '', $is->day->iso(), '', $say($is->bank)];
        foreach ($is->onTheWay as $r) {
            yield ['on the way', $r['number'], $r['check'], $r['day'], $r['party'], $say($r['amount'])];
        }
        foreach ($is->waiting as $r) {
            yield ['line without a place', '', '', $r['day'], $r['text'], $say(-$r['amount'])];
        }
        foreach (
            ['before the first statement' => $is->carried, 'missing between statements' => $is->missing] as $what => $minor
        ) {
            if (0 !== $minor) {
                yield [$what, '', '', '', '', $say($minor)];
            }
        }
        yield ['balance of the ledger', '', '', $is->day->iso(), '', $say($is->ledger)];
    }

    private function account(Desk $desk, int $bank): BankRow
    {
        return $this->banks->find($desk->id(), $bank) ??
            throw $this->createNotFoundException('There is no such bank account in this company.');
    }
}
