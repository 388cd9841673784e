<?php

declare(strict_types=1);

namespace Nelbix\App\Setup;

use Nelbix\App\People\HistoryQuery;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Setup\Records\RecordField;
use Nelbix\App\Setup\Records\RecordKind;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Symfony\Component\DependencyInjection\Attribute\AutowireIterator;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** The lists and forms of the coded records: accounts, cost centers, departments, projects, tax codes, bank accounts. */
#[Route(
    '/{company}/setup/{kind}',
    requirements: [
        'company' => '[A-Z0-9]{2,12}',
        'kind' => 'accounts|cost-centers|departments|projects|tax-codes|bank-accounts|reminder-ladders',
    ],
),]
final class RecordController extends Screen
{
    /** @param iterable<RecordKind> $recordKinds */
    public function __construct(
        #[AutowireIterator(RecordKind::class)] private readonly iterable $recordKinds,
        private readonly HistoryQuery $history,
    ) {
    }

    #[Route('', name: 'records', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function list(Desk $desk, string $kind, Request $request): Response
    {
        $records = $this->kind($kind);
        $q = mb_strtolower(mb_substr(trim((string) $request->query->get('q', '')), 0, 40));
        $retired = '1' === $request->query->get('retired');
        $rows = array_values(
            array_filter(
                $records->rows($desk->id(), $kind),
                static fn (array $r): bool => ($retired || !$r['retired'])
                    && ('' === $q || str_contains(mb_strtolower(implode(' ', $r['values'])), $q)),
            ),
        );
        $fields = $records->fields($kind);
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                $kind,
                array_map(static fn (RecordField $f): string => $f->name, $fields),
                array_map(static fn (array $r): array => array_values($r['values']), $rows),
            );
        }

        return $this->render('setup/records.html.twig', [
            'kind' => $kind,
            ...$records->kinds()[$kind],
            'fields' => $fields,
            'rows' => $rows,
            'q' => $q,
            'retired' => $retired,
        ]);
    }

    #[Route('/new', name: 'record_new', methods: ['GET'], priority: 1)]
    #[Needs(Permission::Control)]
    public function add(string $kind): Response
    {
        return $this->form($kind, [], null);
    }

    #[Route('/{id<\d+>}', name: 'record', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function show(Desk $desk, string $kind, int $id): Response
    {
        foreach ($this->kind($kind)->rows($desk->id(), $kind) as $row) {
            if ($row['id'] === $id) {
                return $this->form(
                    $kind,
                    [...$row['values'], 'retired' => $row['retired'] ? 'yes' : ''],
                    $id,
                    [],
                    $this->history->of($desk->id(), $kind, $id),
                );
            }
        }
        throw $this->createNotFoundException('There is no such record in this company.');
    }

    #[Route('/save', name: 'record_save', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function save(Desk $desk, string $kind, Request $request): Response
    {
        $id = self::int($request->request, '_id') ?: null;
        try {
            $this->kind($kind)->save($desk->actor, $kind, $request->request->all(), $id);
        } catch (Refused $e) {
            return $this->form($kind, $request->request->all(), $id, $e->problems);
        }
        $this->say(\sprintf('The %s is saved.', $this->kind($kind)->kinds()[$kind]['one']));

        return $this->redirectToRoute('records', ['company' => $desk->company->code, 'kind' => $kind], 303);
    }

    private function kind(string $kind): RecordKind
    {
        foreach ($this->recordKinds as $records) {
            if (isset($records->kinds()[$kind])) {
                return $records;
            }
        }
        throw $this->createNotFoundException('There is no such list.');
    }

    /**
     * @param array<mixed> $values
     * @param list<Problem> $problems
     * @param list<array{action: string, detail: string, name: string, happened_at: string}> $history
     */
    private function form(string $kind, array $values, ?int $id, array $problems = [], array $history = []): Response
    {
        $records = $this->kind($kind);
        $form = array_fill_keys(array_map(static fn (RecordField $f): string => $f->name, $records->fields($kind)), '');
        $form = array_map(static fn (mixed $v): string => \is_scalar($v) ? (string) $v : '', [...$form, ...$values]);

        return $this->render(
            'setup/record.html.twig',
            [
                'kind' => $kind,
                ...$records->kinds()[$kind],
                'fields' => $records->fields($kind),
                'form' => $form,
                'id' => $id,
                'problems' => $problems,
                'errors' => self::byField($problems),
                'history' => $history,
            ],
            new Response(null, [] === $problems ? 200 : 422),
        );
    }
}
