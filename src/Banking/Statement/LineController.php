<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\People\HistoryQuery;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Words;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Placement\Movement;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** One line of a statement: what it says, what it was placed on, and its place by hand. */
#[Route('/{company}/bank/line/{id<\d+>}', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class LineController extends Screen
{
    private const EMPTY = [
        'account' => '',
        'amount' => '',
        'tax' => '',
        'cost_center' => '',
        'department' => '',
        'project' => '',
        'text' => '',
    ];

    public function __construct(
        private readonly StatementQuery $query,
        private readonly BankAccounts $banks,
        private readonly Movements $movements,
        private readonly PlaceLine $placeLine,
    ) {
    }

    #[Route('', name: 'bank_line', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function line(Desk $desk, int $id, HistoryQuery $history): Response
    {
        return $this->page($desk, $id, [], [], $history);
    }

    /**
     * @param array<mixed> $form
     * @param list<Problem> $problems
     */
    private function page(Desk $desk, int $id, array $form, array $problems, HistoryQuery $history): Response
    {
        [$line, $bank] = $this->lineOf($desk, $id);
        $waiting = (int) $line['waiting'];
        $open =
            0 === $waiting
                ? []
                : array_filter(
                    $this->movements->open($bank),
                    static fn (Movement $m): bool => ($m->amount <=> 0) === ($waiting <=> 0),
                );
        usort(
            $open,
            static fn (Movement $a, Movement $b): int => [abs($a->amount - $waiting), $b->day->iso()] <=> [
                abs($b->amount - $waiting),
                $a->day->iso(),
            ],
        );

        return $this->render(
            'banking/statement/line.html.twig',
            [
                'line' => $line,
                'bank' => $bank,
                'parts' => $this->query->parts([$id])[$id] ?? [],
                'open' => \array_slice($open, 0, 60),
                'open_count' => \count($open),
                'lines' => self::formLines($form, self::EMPTY, 4),
                'form' => $form,
                'problems' => $problems,
                'errors' => self::byField($problems),
                'history' => $history->of($desk->id(), 'statement_line', $id),
                'key' => FormKey::goOn($form),
            ],
            new Response(null, [] === $problems ? 200 : 422),
        );
    }

    /** On accounts, in as many parts as it takes, or on several records. */
    #[Route('', name: 'bank_line_place', methods: ['POST'])]
    #[Needs(Permission::PlaceBankLines)]
    public function place(Desk $desk, int $id, Request $request, HistoryQuery $history): Response
    {
        [$line, $bank] = $this->lineOf($desk, $id);
        $raw = $request->request->all();
        // the rest is the rest that the person saw; what is not left by now is refused where it is placed
        $waiting = self::int($request->request, 'waiting');
        $waiting = 0 === $waiting ? (int) $line['waiting'] : $waiting;
        try {
            $choice =
                'records' === ($raw['_action'] ?? '')
                    ? $this->records($bank, $waiting, $raw)
                    : $this->accounts($bank, $waiting, $raw);
            PickedChoices::mayPlace($desk, $choice);
            $this->placeLine->once($desk->actor, $id, $choice, FormKey::of($request));
        } catch (Refused $e) {
            return $this->page($desk, $id, $raw, $e->problems, $history);
        }
        $left = (int) $this->lineOf($desk, $id)[0]['waiting'];
        $this->say(0 === $left ? 'The line has its place.' : 'A part of the line has its place; the rest waits.');

        return 0 === $left
            ? $this->redirectToRoute('statement', ['company' => $desk->company->code, 'bank' => $bank->id], 303)
            : $this->redirectToRoute('bank_line', ['company' => $desk->company->code, 'id' => $id], 303);
    }

    #[Route('/undo', name: 'bank_line_undo', methods: ['POST'])]
    #[Needs(Permission::PlaceBankLines)]
    public function undo(Desk $desk, int $id, Request $request, UndoLine $undo): Response
    {
        $this->lineOf($desk, $id);

        return $this->act(
            function () use ($desk, $id, $request, $undo): string {
                foreach ($this->query->parts([$id])[$id] ?? [] as $part) {
                    $side = Side::tryFrom((string) $part['side']);
                    if (
                        1 === (int) $part['own']
                        && null === $part['undone_at']
                        && null !== $side
                        && !$desk->enters($side)
                    ) {
                        throw Refused::because(
                            '',
                            \sprintf('Your role does not enter %s; ask somebody who does.', $side->value),
                        );
                    }
                }
                $reversed = $undo->undo($desk->actor, $id, (string) $request->request->get('reason', ''));

                return 0 === $reversed
                    ? 'The line waits again; what it was joined with is free.'
                    : \sprintf(
                        'The line waits again; %s reversed.',
                        Words::count($reversed, 'record').(1 === $reversed ? ' is' : ' are'),
                    );
            },
            'bank_line',
            ['company' => $desk->company->code, 'id' => $id],
        );
    }

    /** @param array<mixed> $raw */
    private function records(BankRow $bank, int $waiting, array $raw): Choice
    {
        $open = array_column(
            array_map(static fn (Movement $m): array => [$m->entry, $m->amount], $this->movements->open($bank)),
            1,
            0,
        );
        $entries = [];
        foreach (\is_array($raw['entries'] ?? null) ? $raw['entries'] : [] as $entry) {
            $amount = \is_string($entry) && ctype_digit($entry) ? $open[(int) $entry] ?? null : null;
            if (null === $amount) {
                throw Refused::because('entries', 'What was picked has its line by now; load the page anew.');
            }
            $entries[] = [(int) $entry, $amount];
        }
        $sum = array_sum(array_column($entries, 1));
        // less than the line leaves the rest waiting, unless an account takes the difference
        $account = \is_string($raw['difference'] ?? null) ? trim($raw['difference']) : '';
        $amount = '' === $account && abs($sum) < abs($waiting) ? $sum : $waiting;

        return new Choice(PartKind::Joined, $amount, entries: $entries, difference: $account);
    }

    /**
     * @param array<mixed> $raw
     *
     * @throws Refused with every problem
     */
    private function accounts(BankRow $bank, int $waiting, array $raw): Choice
    {
        $problems = new ProblemList();
        $parts = [];
        $used = 0;
        $rows = array_filter(
            self::formLines($raw, self::EMPTY, 0),
            static fn (array $r): bool => '' !== implode('', $r),
        );
        foreach ($rows as $k => $row) {
            // an empty amount is the rest
            $amount =
                '' === $row['amount']
                    ? $waiting - $used
                    : $problems->attempt(
                        static fn (): int => ($waiting <=> 0) *
                            AmountInput::read($row['amount'], Currency::of($bank->currency), 'amount')->minor,
                        "lines.$k.",
                    ) ?? 0;
            $used += $amount;
            $parts[] = [
                'account' => $row['account'],
                'amount' => $amount,
                'tax' => $row['tax'],
                'cost_center' => $row['cost_center'],
                'department' => $row['department'],
                'project' => $row['project'],
                'text' => $row['text'],
            ];
        }
        $problems->refuse();

        return [] === $parts
            ? throw Refused::because('lines.0.account', 'The account is missing; type its number.')
            : new Choice(PartKind::Accounts, $used, parts: $parts);
    }

    /** @return array{array<string, mixed>, BankRow} */
    private function lineOf(Desk $desk, int $id): array
    {
        $line =
            $this->query->line($desk->id(), $id) ??
            throw $this->createNotFoundException('There is no such line in this company.');

        return [
            $line,
            $this->banks->find($desk->id(), (int) $line['bank_account_id']) ?? throw $this->createNotFoundException(),
        ];
    }
}
