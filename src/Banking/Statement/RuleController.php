<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\People\HistoryQuery;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Placement\ReadingRule;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Reading rules: in their order, each tried on past lines before it is kept. */
#[Route('/{company}/bank/rules', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class RuleController extends Screen
{
    private const EMPTY = [
        'account' => '',
        'percent' => '',
        'tax' => '',
        'cost_center' => '',
        'department' => '',
        'project' => '',
    ];

    public function __construct(
        private readonly RuleQuery $query,
        private readonly SaveRule $saveRule,
        private readonly BankAccounts $banks,
        private readonly StatementQuery $lines,
        private readonly HistoryQuery $history,
    ) {
    }

    #[Route('', name: 'rules', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function list(Desk $desk): Response
    {
        return $this->render('banking/statement/rules.html.twig', ['rules' => $this->query->all($desk->id())]);
    }

    /** A new one, of the words of a line when it is asked for from there. */
    #[Route('/new', name: 'rule_new', methods: ['GET'])]
    #[Needs(Permission::PlaceBankLines)]
    public function enter(Desk $desk, Request $request): Response
    {
        $line = $this->lines->line($desk->id(), max(0, self::int($request->query, 'line')));

        return $this->page($desk, null, null === $line ? [] : self::ofLine($line), []);
    }

    /**
     * The words that are likely to stand in the next such line too: those without a digit.
     *
     * @param array<string, mixed> $line
     *
     * @return array<string, mixed>
     */
    private static function ofLine(array $line): array
    {
        $words = [];
        foreach (preg_split('/\s+/', trim($line['party'].' '.$line['text'])) ?: [] as $word) {
            if (1 !== preg_match('/\d|,/', $word) && mb_strlen($word) > 2) {
                $words[] = $word;
            }
        }

        return [
            'words' => implode(', ', \array_slice(array_unique($words), 0, 4)),
            'direction' => (int) $line['amount'] > 0 ? 'in' : 'out',
            'bank' => $line['bank'],
            'line' => (string) $line['id'],
        ];
    }

    #[Route('/{id<\d+>}', name: 'rule', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function rule(Desk $desk, int $id): Response
    {
        $rule =
            $this->query->one($desk->id(), $id) ??
            throw $this->createNotFoundException('There is no such rule in this company.');
        $parts = (array) json_decode((string) $rule['parts'], true);
        $amount = static fn (mixed $minor): string => null === $minor
            ? ''
            : Money::of((int) $minor, $desk->company->baseCurrency)->decimal();

        return $this->page(
            $desk,
            $rule,
            [
                'name' => $rule['name'],
                'words' => $rule['words'],
                'direction' => [-1 => 'out', 0 => '', 1 => 'in'][(int) $rule['direction']],
                'bank' => $rule['bank_code'],
                'least' => $amount($rule['least']),
                'most' => $amount($rule['most']),
                'party' => $parts['party'] ?? '',
                'side' => $parts['side'] ?? '',
                'lines' => $parts['accounts'] ?? [],
                'version' => (string) $rule['version'],
            ],
            [],
        );
    }

    /**
     * @param array<string, mixed>|null $rule
     * @param array<mixed> $form
     * @param list<Problem> $problems
     */
    private function page(Desk $desk, ?array $rule, array $form, array $problems): Response
    {
        return $this->render(
            'banking/statement/rule.html.twig',
            [
                'rule' => $rule,
                'form' => $form,
                'problems' => $problems,
                'errors' => self::byField($problems),
                'lines' => self::formLines($form, self::EMPTY, 2),
                'banks' => $this->banks->names($desk->id()),
                'history' => null === $rule ? [] : $this->history->of($desk->id(), 'reading_rule', (int) $rule['id']),
            ],
            new Response(null, [] === $problems ? 200 : 422),
        );
    }

    /** What the rule as it is typed would have taken of past lines. */
    #[Route('/try', name: 'rule_try', methods: ['POST'])]
    #[Needs(Permission::PlaceBankLines)]
    public function try(Desk $desk, Request $request): Response
    {
        $text = static fn (string $key): string => \is_string($request->request->all()[$key] ?? null)
            ? trim((string) $request->request->all()[$key])
            : '';
        $bank = $this->banks->byCode($desk->id(), $text('bank'));
        $amount = static function (string $field) use ($text, $desk): ?int {
            try {
                return '' === $text($field)
                    ? null
                    : abs(Money::parse(str_replace(',', '', $text($field)), $desk->company->baseCurrency)->minor);
            } catch (Refused) {
                return null;
            }
        };
        $words = RuleCounts::words($text('words'));

        return $this->render('banking/statement/_tried.html.twig', [
            'words' => $words,
            'tried' => [] === $words
                    ? null
                    : $this->query->tried(
                        $desk->id(),
                        new ReadingRule(
                            0,
                            'this rule',
                            $words,
                            ['in' => 1, 'out' => -1][$text('direction')] ?? 0,
                            $amount('least'),
                            $amount('most'),
                        ),
                        '' === $text('bank') ? null : $bank?->id,
                    ),
        ]);
    }

    #[Route('', name: 'rule_add', methods: ['POST'])]
    #[Needs(Permission::PlaceBankLines)]
    public function add(Desk $desk, Request $request): Response
    {
        return $this->save($desk, $request, null);
    }

    #[Route('/{id<\d+>}', name: 'rule_save', methods: ['POST'])]
    #[Needs(Permission::PlaceBankLines)]
    public function change(Desk $desk, int $id, Request $request): Response
    {
        $this->query->one($desk->id(), $id) ??
            throw $this->createNotFoundException('There is no such rule in this company.');

        return $this->save($desk, $request, $id);
    }

    private function save(Desk $desk, Request $request, ?int $id): Response
    {
        $raw = $request->request->all();
        try {
            $this->saveRule->save($desk->actor, $raw, $id);
        } catch (Refused $e) {
            return $this->page($desk, null === $id ? null : $this->query->one($desk->id(), $id), $raw, $e->problems);
        }
        $this->say(
            'The rule is kept. What it finds stands on the statement, to be marked; it posts nothing by itself.',
        );
        $line = $this->lines->line($desk->id(), max(0, self::int($request->request, 'line')));

        return null === $line
            ? $this->redirectToRoute('rules', ['company' => $desk->company->code], 303)
            : $this->redirectToRoute(
                'statement',
                ['company' => $desk->company->code, 'bank' => $line['bank_account_id'], 'id' => $line['statement_id']],
                303,
            );
    }

    #[Route('/{id<\d+>}/move', name: 'rule_move', methods: ['POST'])]
    #[Needs(Permission::PlaceBankLines)]
    public function move(Desk $desk, int $id, Request $request): Response
    {
        return $this->act(
            function () use ($desk, $id, $request): ?string {
                match ((string) $request->request->get('to', '')) {
                    'up' => $this->saveRule->move($desk->actor, $id, -1),
                    'down' => $this->saveRule->move($desk->actor, $id, 1),
                    'retire' => $this->saveRule->retire($desk->actor, $id, true),
                    'use' => $this->saveRule->retire($desk->actor, $id, false),
                    default => throw Refused::because('', 'Say what becomes of the rule.'),
                };

                return null;
            },
            'rules',
            ['company' => $desk->company->code],
        );
    }
}
