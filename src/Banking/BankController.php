<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\CheckState;
use Nelbix\App\Bank\SaveCheckBook;
use Nelbix\App\Bank\SkipChecks;
use Nelbix\App\Banking\Statement\StatementQuery;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Paper;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Platform\StandIns;
use Nelbix\Core\Money\Money;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Bank accounts with their balances, and the check register. */
#[Route('/{company}/bank', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class BankController extends Screen
{
    public function __construct(private readonly RegisterQuery $register)
    {
    }

    #[Route('', name: 'bank', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function accounts(
        Desk $desk,
        BankAccounts $accounts,
        PrinterQuery $printer,
        StandIns $standIns,
        StatementQuery $statements,
    ): Response {
        return $this->render('banking/accounts.html.twig', [
            'stand_ins' => $standIns->here,
            'jams' => $printer->jamsAt($desk->id()),
            'jobs' => $printer->jobs($desk->id()),
            'accounts' => $accounts->balances($desk->id(), $desk->today),
            'books' => $this->register->books($desk->id()),
            'statements' => array_column($statements->accounts($desk->id()), null, 'id'),
        ]);
    }

    /** Checks that were issued long ago and that no statement has shown. */
    #[Route('/stale', name: 'stale_checks', methods: ['GET'])]
    #[Needs(Permission::SeePayables)]
    public function stale(Desk $desk, Request $request, StatementQuery $statements, Settings $settings): Response
    {
        $days = $settings->of($desk->id())->staleCheckDays();
        $rows = $statements->stale($desk->id(), $desk->today->plusDays(-$days));
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'stale-checks',
                ['bank', 'number', 'date', 'payee', 'payment', 'amount', 'currency'],
                array_map(
                    static fn (array $r): array => [
                        (string) $r['bank'],
                        (string) $r['number'],
                        (string) $r['check_date'],
                        (string) $r['payee'],
                        (string) $r['payment'],
                        Money::of((int) $r['amount'], (string) $r['currency'])->decimal(),
                        (string) $r['currency'],
                    ],
                    $rows,
                ),
            );
        }

        return $this->render('banking/stale.html.twig', ['rows' => $rows, 'days' => $days]);
    }

    #[Route('/register/{book<\d+>}/skip', name: 'register_skip', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function skip(Desk $desk, int $book, Request $request, SkipChecks $skip): Response
    {
        return $this->act(
            static fn (): string => \sprintf(
                '%d skipped. The register says why.',
                $skip->skip(
                    $desk->actor,
                    $book,
                    self::int($request->request, 'through'),
                    (string) $request->request->get('reason', ''),
                ),
            ),
            'register',
            ['company' => $desk->company->code, 'book' => $book],
        );
    }

    #[Route('/register/{book<\d+>}', name: 'register', methods: ['GET'])]
    #[Needs(Permission::SeePayables)]
    public function register(Desk $desk, int $book, Request $request): Response
    {
        $info = $this->book($desk, $book);
        $state = CheckState::tryFrom((string) $request->query->get('state', ''));
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'check-register',
                ['number', 'state', 'date', 'payee', 'amount', 'payment', 'run', 'reason'],
                self::cells($this->register->each($book, $state), (string) $info['currency']),
            );
        }

        $after = $request->query->get('after');

        return $this->render('banking/register.html.twig', [
            'page' => $this->register->page($book, $state, \is_string($after) ? $after : null),
            'begun' => null !== $after,
            'foot' => $this->register->foot($book, $state),
            'book' => $info,
            'state' => $state,
            'states' => CheckState::cases(),
        ]);
    }

    /**
     * @param iterable<array<string, mixed>> $rows
     *
     * @return iterable<list<string>>
     */
    private static function cells(iterable $rows, string $currency): iterable
    {
        foreach ($rows as $r) {
            yield [
                (string) $r['number'],
                (string) $r['state'],
                (string) $r['check_date'],
                (string) $r['payee'],
                Money::of((int) $r['amount'], $currency)->decimal(),
                (string) $r['payment'],
                (string) $r['run'],
                (string) $r['reason'],
            ];
        }
    }

    #[Route('/book', name: 'check_book_add', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function addBook(Desk $desk, Request $request, SaveCheckBook $save): Response
    {
        return $this->act(
            static function () use ($desk, $request, $save): string {
                $save->add($desk->actor, self::int($request->request, 'bank'), $request->request->all());

                return 'The check book is added; a run can be printed from it.';
            },
            'bank',
            ['company' => $desk->company->code],
        );
    }

    #[Route('/register/{book<\d+>}/align', name: 'register_align', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function align(Desk $desk, int $book, Request $request, SaveCheckBook $save): Response
    {
        return $this->act(
            static function () use ($desk, $book, $request, $save): string {
                $save->align($desk->actor, $book, $request->request->all());

                return 'The alignment is kept; print a test page on plain paper and hold it against a check.';
            },
            'register',
            ['company' => $desk->company->code, 'book' => $book],
        );
    }

    /** A page with the places of a check marked, moved by the book's alignment. */
    #[Route('/register/{book<\d+>}/test.pdf', name: 'register_test', methods: ['GET'])]
    #[Needs(Permission::PayVendors)]
    public function test(Desk $desk, int $book, Paper $paper): Response
    {
        $info = $this->book($desk, $book);
        $check = [
            'number' => 'XXXX',
            'name' => 'Payee, test print',
            'street' => 'Street 1',
            'city' => 'City',
            'country' => '',
            'bank' => $info['bank'],
            'currency' => $info['currency'],
            'amount' => 0,
            'check_date' => $desk->today->iso(),
            'words' => 'Not a check: '.
                $info['name'].
                ', moved '.
                $info['offset_x'].
                ' mm right, '.
                $info['offset_y'].
                ' mm down',
            'lines' => [],
            'offset_x' => $info['offset_x'],
            'offset_y' => $info['offset_y'],
        ];

        return $paper->pdf(
            'banking/checks_pdf.html.twig',
            ['company' => $desk->company, 'checks' => [$check], 'test' => true],
            'test-print',
        );
    }

    /** What the bank may pay: every check that was issued, and those it must not pay any more. */
    #[Route('/register/{book<\d+>}/issued', name: 'register_issued', methods: ['GET'])]
    #[Needs(Permission::SeePayables)]
    public function issued(Desk $desk, int $book, Request $request): Response
    {
        $info = $this->book($desk, $book);
        $rows = $this->register->issued($book);

        return $this->exported(
            $request,
            'issued-checks',
            ['account', 'number', 'date', 'amount', 'currency', 'payee', 'state'],
            array_map(
                static fn (array $r): array => [
                    '' === $info['account_number'] ? (string) $info['bank_code'] : (string) $info['account_number'],
                    (string) $r['number'],
                    (string) $r['check_date'],
                    Money::of((int) $r['amount'], (string) $info['currency'])->decimal(),
                    (string) $info['currency'],
                    (string) $r['payee'],
                    \in_array($r['state'], ['issued', 'cleared'], true) ? 'issued' : 'void',
                ],
                $rows,
            ),
        );
    }

    #[Route('/printer', name: 'printer_jam', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function jam(Desk $desk, Request $request, TellPrinter $tell): Response
    {
        return $this->act(
            static function () use ($desk, $request, $tell): string {
                $page = $tell->jamAt($desk->actor, (string) $request->request->get('page', ''));

                return null === $page
                    ? 'The stand-in prints on without a jam.'
                    : \sprintf('The stand-in will jam at page %d of the next job.', $page);
            },
            'bank',
            ['company' => $desk->company->code],
        );
    }

    /** @return array<string, mixed> as RegisterQuery::book gives it */
    private function book(Desk $desk, int $book): array
    {
        return $this->register->book($desk->id(), $book) ??
            throw $this->createNotFoundException('There is no such check book in this company.');
    }
}
