<?php

declare(strict_types=1);

namespace Nelbix\App\Receivables;

use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Paper;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Money\Money;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Statements of account: who gets which, one to read, many on paper. */
#[Route('/{company}/receivables/statements', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class AccountStatementController extends Screen
{
    public function __construct(private readonly AccountStatement $statements, private readonly BooksDay $booksDay)
    {
    }

    #[Route('', name: 'account_statements', methods: ['GET'])]
    #[Needs(Permission::SeeReceivables)]
    public function list(Desk $desk, Request $request): Response
    {
        $period = StatementPeriod::of($request->query, $this->booksDay->input($desk->id()), $desk->today);
        $rows = $this->statements->customers($desk->id(), $period->through);
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'statements',
                ['customer', 'name', 'email', 'items', 'open', 'overdue'],
                array_map(
                    static fn (array $r): array => [
                        (string) $r['code'],
                        (string) $r['name'],
                        (string) $r['email'],
                        (string) $r['items'],
                        Money::of((int) $r['open'], $desk->company->baseCurrency)->decimal(),
                        Money::of((int) $r['overdue'], $desk->company->baseCurrency)->decimal(),
                    ],
                    $rows,
                ),
            );
        }

        return $this->render('receivables/statements.html.twig', [
            'rows' => $rows,
            'period' => $period,
            'moves' => null !== $period->from,
        ]);
    }

    #[Route('/{id<\d+>}', name: 'account_statement', methods: ['GET'])]
    #[Needs(Permission::SeeReceivables)]
    public function one(Desk $desk, int $id, Request $request): Response
    {
        $period = StatementPeriod::of($request->query, $this->booksDay->input($desk->id()), $desk->today);
        $statement = $this->statements->of($desk->id(), [$id], $period->from, $period->through)[0] ?? null;
        if (null === $statement) {
            $this->addFlash('refused', 'There is nothing to state: nothing is open, and nothing moved.');

            return $this->redirectToRoute('account_statements', ['company' => $desk->company->code], 303);
        }
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'statement-'.$statement['party']['code'],
                ['currency', 'date', 'number', 'what', 'due', 'amount', 'balance'],
                self::cells($statement['currencies']),
            );
        }

        return $this->render('receivables/statement.html.twig', [
            'statement' => $statement,
            'period' => $period,
            'moves' => null !== $period->from,
        ]);
    }

    #[Route('/print.pdf', name: 'account_statements_pdf', methods: ['GET'])]
    #[Needs(Permission::SeeReceivables)]
    public function pdf(Desk $desk, Request $request, Paper $paper): Response
    {
        $period = StatementPeriod::of($request->query, $this->booksDay->input($desk->id()), $desk->today);
        $ids = array_map('intval', array_filter($request->query->all('ids'), 'is_scalar'));
        $statements = $this->statements->of(
            $desk->id(),
            \array_slice(array_values($ids), 0, 500),
            $period->from,
            $period->through,
        );

        if ([] === $statements) {
            $this->addFlash(
                'refused',
                'Nothing is printed: pick a customer with something open, or with something that moved.',
            );

            return $this->redirectToRoute('account_statements', ['company' => $desk->company->code], 303);
        }

        return $paper->pdf(
            'receivables/statement_pdf.html.twig',
            [
                'company' => $desk->company,
                'statements' => $statements,
                'period' => $period,
                'moves' => null !== $period->from,
            ],
            'statements',
        );
    }

    /**
     * @param array<string, array{opening: int, lines: list<array{day: string, number: string, what: string, due: ?string, amount: int,
     *     balance: int}>, closing: int, overdue: int}> $currencies
     *
     * @return list<list<string>>
     */
    private static function cells(array $currencies): array
    {
        $cells = [];
        foreach ($currencies as $currency => $of) {
            foreach ($of['lines'] as $l) {
                $cells[] = [
                    $currency,
                    $l['day'],
                    $l['number'],
                    $l['what'],
                    (string) $l['due'],
                    Money::of($l['amount'], $currency)->decimal(),
                    Money::of($l['balance'], $currency)->decimal(),
                ];
            }
        }

        return $cells;
    }
}
