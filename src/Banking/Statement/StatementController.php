<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Words;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** A statement of a bank account: its lines, what was found for each, and what the clerk makes of it. */
#[Route('/{company}/bank/{bank<\d+>}/statement', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class StatementController extends Screen
{
    public function __construct(
        private readonly BankAccounts $banks,
        private readonly StatementQuery $query,
        private readonly FindPlaces $findPlaces,
        private readonly LineOptions $options,
        private readonly Chart $chart,
    ) {
    }

    #[Route('', name: 'statement', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function lines(Desk $desk, int $bank, Request $request): Response
    {
        return $this->page($desk, $this->account($desk, $bank), $request);
    }

    /** @param array<int, string> $refused what was refused, by line */
    private function page(Desk $desk, BankRow $bank, Request $request, array $refused = [], int $status = 200): Response
    {
        $statement = $this->query->statement($bank->id, max(0, self::int($request->query, 'id')));
        if (null === $statement) {
            return $this->render('banking/statement/none.html.twig', [
                'bank' => $bank,
                'banks' => $this->query->accounts($desk->id()),
            ]);
        }
        $show = (string) $request->query->get('show', '');
        $waitingOnly = 'waiting' === $show || ('' === $show && (int) $statement['waiting'] > 0);
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'statement-'.$statement['to_day'],
                [
                    'day',
                    'value_day',
                    'amount',
                    'waiting',
                    'party',
                    'text',
                    'reference',
                    'bank_reference',
                    'account',
                    'check',
                ],
                $this->cells((int) $statement['id'], $bank->currency),
            );
        }
        $rows = $this->query->lines(
            (int) $statement['id'],
            $waitingOnly,
            max(0, self::int($request->query, 'after')),
            StatementQuery::PAGE + 1,
        );
        $next = \count($rows) > StatementQuery::PAGE;
        $rows = \array_slice($rows, 0, StatementQuery::PAGE);
        $waiting = array_filter(array_map('intval', array_column($rows, 'waiting', 'id')));
        $found =
            [] === $waiting || !$desk->may(Permission::PlaceBankLines)
                ? []
                : array_intersect_key($this->findPlaces->of($bank, $desk->id()), $waiting);
        $kept = $request->request->all();

        return $this->render(
            'banking/statement/statement.html.twig',
            [
                'bank' => $bank,
                'banks' => $this->query->accounts($desk->id()),
                'statement' => $statement,
                'rows' => $rows,
                'next' => $next ? $rows[\count($rows) - 1]['place'] ?? null : null,
                'waiting_only' => $waitingOnly,
                'found' => $found,
                'options' => $this->options->of($bank, $desk->id(), $found, $waiting),
                'parts' => [] === $rows ? [] : $this->query->parts(array_map('intval', array_column($rows, 'id'))),
                'refused' => $refused,
                'kept' => $kept,
                'spine' => self::spine($statement, $rows),
                'key' => FormKey::goOn(),
            ],
            new Response(null, $status),
        );
    }

    /** What posting the picked lines would book. */
    #[Route('/live', name: 'statement_live', methods: ['POST'])]
    #[Needs(Permission::PlaceBankLines)]
    public function live(Desk $desk, int $bank, Request $request, PreviewLines $preview): Response
    {
        $account = $this->account($desk, $bank);
        try {
            $picked = PickedChoices::of($desk, $request);
        } catch (Refused $e) {
            return $this->render('banking/statement/_panel.html.twig', [
                'draft' => null,
                'joined' => 0,
                'problems' => [0 => $e->getMessage()],
                'picked' => 0,
                'accounts' => $this->chart->accounts($desk->id()),
            ]);
        }
        $rows = array_column($this->query->picked($account->id, array_column($picked, 'id')), null, 'id');
        $with = [];
        foreach ($picked as $p) {
            if (isset($rows[$p['id']])) {
                $with[] = ['line' => $rows[$p['id']], 'choice' => $p['choice']];
            }
        }

        return $this->render('banking/statement/_panel.html.twig', [
            ...$preview->of($desk->actor, $account, $with),
            'picked' => \count($with),
            'accounts' => $this->chart->accounts($desk->id()),
        ]);
    }

    /** Only what was sent is posted. */
    #[Route('', name: 'statement_place', methods: ['POST'])]
    #[Needs(Permission::PlaceBankLines)]
    public function place(Desk $desk, int $bank, Request $request, PlaceLines $placeLines): Response
    {
        $account = $this->account($desk, $bank);
        try {
            $picked = PickedChoices::of($desk, $request);
            if ([] === $picked) {
                throw Refused::because('go', 'No line is marked; Enter on a line marks it with what was found.');
            }
            $done = $placeLines->place($desk->actor, $picked, FormKey::of($request));
        } catch (Refused $e) {
            $this->refused($e);

            return $this->back($desk, $account, $request);
        }
        if (null === $done) {
            $this->say('They were posted already; this page was sent twice.');

            return $this->back($desk, $account, $request);
        }
        if ($done['placed'] > 0) {
            $this->say(\sprintf('%s placed.', Words::count($done['placed'], 'line')));
        }
        if ([] === $done['refused']) {
            return $this->back($desk, $account, $request);
        }

        return $this->page($desk, $account, $request, $done['refused'], 422);
    }

    private function back(Desk $desk, BankRow $bank, Request $request): Response
    {
        return $this->redirectToRoute(
            'statement',
            ['company' => $desk->company->code, 'bank' => $bank->id, ...self::asked($request->query, ['id', 'show'])],
            Response::HTTP_SEE_OTHER,
        );
    }

    /** What the words typed into a row may mean. */
    #[Route('/search/{line<\d+>}', name: 'line_search', methods: ['GET'])]
    #[Needs(Permission::PlaceBankLines)]
    public function search(Desk $desk, int $bank, int $line, Request $request, LineSearch $search): Response
    {
        $account = $this->account($desk, $bank);
        $row = $this->query->line($desk->id(), $line);
        if (null === $row || (int) $row['bank_account_id'] !== $account->id) {
            throw $this->createNotFoundException('There is no such line in this company.');
        }
        $typed = $request->query->all()['q'] ?? '';

        return $this->render('banking/statement/_options.html.twig', [
            'options' => $search->find(
                $desk->id(),
                $account,
                $row,
                \is_string($typed) ? $typed : '',
                array_values(array_filter(Side::cases(), $desk->enters(...))),
            ),
            'sure' => false,
            'currency' => $account->currency,
        ]);
    }

    private function account(Desk $desk, int $bank): BankRow
    {
        return $this->banks->find($desk->id(), $bank) ??
            throw $this->createNotFoundException('There is no such bank account in this company.');
    }

    /**
     * The balance as a step line down the rows, on one scale: where it stands before and after each line, in a hundred parts.
     *
     * @param array<string, mixed> $statement
     * @param list<array<string, mixed>> $rows
     *
     * @return list<array{float, float}>
     */
    private static function spine(array $statement, array $rows): array
    {
        $balances = [(int) $statement['opening'], (int) $statement['closing']];
        foreach ($rows as $r) {
            array_push($balances, (int) $r['balance'], (int) $r['balance'] + (int) $r['amount']);
        }
        $low = min($balances);
        $span = max(1, max($balances) - $low);
        $at = static fn (int $balance): float => round((96 * ($balance - $low)) / $span + 2, 1);

        return array_map(
            static fn (array $r): array => [$at((int) $r['balance']), $at((int) $r['balance'] + (int) $r['amount'])],
            $rows,
        );
    }

    /** @return iterable<list<string>> */
    private function cells(int $statement, string $currency): iterable
    {
        foreach ($this->query->lines($statement, false, 0, 100_000) as $r) {
            yield [
                (string) $r['day'],
                (string) $r['value_day'],
                Money::of((int) $r['amount'], $currency)->decimal(),
                Money::of((int) $r['waiting'], $currency)->decimal(),
                (string) $r['party'],
                (string) $r['text'],
                (string) $r['reference'],
                (string) $r['bank_reference'],
                (string) $r['account'],
                (string) $r['check_number'],
            ];
        }
    }
}
