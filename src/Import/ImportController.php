<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\App\Goods\TakeElectronicOrder;
use Nelbix\App\Invoices\TakeElectronicInvoice;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FileStore;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Work\JobQuery;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Symfony\Component\DependencyInjection\Attribute\Autowire;
use Symfony\Component\HttpFoundation\File\UploadedFile;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\HttpKernel\Exception\AccessDeniedHttpException;
use Symfony\Component\Routing\Attribute\Route;

/** Upload a file, see what would be made or what is wrong line by line, then take it over: whole or not at all. */
#[Route('/{company}/import', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class ImportController extends Screen
{
    private const XML = [
        ImportDoors::ELECTRONIC => 'UBL 2.1 or CII after EN 16931, an XML file; it becomes a draft, matched as far as it '.
            'names orders or notes',
        ImportDoors::ORDER => 'Order in UBL 2.1, an XML file; the vendor is found by tax number',
    ];

    public function __construct(
        private readonly ImportFile $importFile,
        private readonly Importers $importers,
        private readonly ImportDoors $doors,
        private readonly LotQuery $lots,
        private readonly FileStore $files,
        private readonly TakeElectronicInvoice $takeElectronicInvoice,
        private readonly TakeElectronicOrder $takeElectronicOrder,
        private readonly ImportLongFile $longFile,
        #[Autowire('%nelbix.import_lines%')] private readonly int $linesAtOnce,
    ) {
    }

    #[Route('', name: 'import', methods: ['GET'])]
    #[Needs(Permission::Enter)]
    public function choose(Desk $desk, Request $request): Response
    {
        return $this->page($desk, (string) $request->query->get('kind', ''));
    }

    #[Route('/check', name: 'import_check', methods: ['POST'])]
    #[Needs(Permission::Enter)]
    public function check(Desk $desk, Request $request): Response
    {
        $kind = (string) $request->request->get('kind', '');
        $this->doors->mayTake($desk, $kind);
        $upload = $request->files->get('file');
        try {
            if (!($upload instanceof UploadedFile) || !$upload->isValid()) {
                throw Refused::because(
                    'file',
                    $upload instanceof UploadedFile
                        ? 'The file did not arrive whole; it may be too big. Choose it again.'
                        : 'Choose a file.',
                );
            }
            $bytes = $upload->getContent();
            if (ImportDoors::ELECTRONIC === $kind) {
                return $this->electronic($desk, $bytes, $upload->getClientOriginalName());
            }
            if (ImportDoors::ORDER === $kind) {
                return $this->order($desk, $bytes);
            }
            $id = $this->files->keep($desk->actor, 'import', null, $upload->getClientOriginalName(), $bytes, [
                'text/csv',
            ]);
            if (substr_count($bytes, "\n") > $this->linesAtOnce) {
                return $this->later($desk, $id, $kind, $bytes, true);
            }
            $result = $this->importFile->import($desk->actor, $kind, $bytes, true);
        } catch (Refused $e) {
            return $this->page($desk, $kind, ['refused' => $e->getMessage()], 422);
        }
        if ([] !== $result['errors']) {
            $this->files->drop($desk->id(), 'import', $id);
        }
        $lines = preg_split('/\r\n|\n|\r/', $bytes) ?: [];

        return $this->page(
            $desk,
            $kind,
            [
                'result' => $result,
                'file' => [] === $result['errors'] ? $id : null,
                'before' => $this->importFile->takenBefore($desk->actor, $kind, $bytes),
                'name' => $upload->getClientOriginalName(),
                'lines' => array_map(
                    static fn ($p): string => mb_strimwidth(mb_scrub($lines[($p->line ?? 1) - 1] ?? ''), 0, 120, '…'),
                    $result['errors'],
                ),
            ],
            [] === $result['errors'] ? 200 : 422,
        );
    }

    #[Route('/take', name: 'import_take', methods: ['POST'])]
    #[Needs(Permission::Enter)]
    public function take(Desk $desk, Request $request): Response
    {
        $kind = (string) $request->request->get('kind', '');
        $this->doors->mayTake($desk, $kind);
        $id = self::int($request->request, 'file');
        $file = $this->files->read($desk->id(), 'import', $id);
        if (null === $file || $file['created_by'] !== $desk->actor->userId) {
            return $this->page(
                $desk,
                $kind,
                ['refused' => 'This file was taken over already, or its check is too old; choose it again.'],
                422,
            );
        }
        $again = '' !== $request->request->get('again', '');
        if (substr_count($file['content'], "\n") > $this->linesAtOnce) {
            try {
                return $this->later($desk, $id, $kind, $file['content'], false, $again);
            } catch (Refused $e) {
                return $this->page($desk, $kind, ['refused' => $e->getMessage()], 422);
            }
        }
        $result = $this->importFile->import($desk->actor, $kind, $file['content'], again: $again);
        $this->files->drop($desk->id(), 'import', $id);
        if ([] !== $result['errors']) {
            return $this->page(
                $desk,
                $kind,
                [
                    'result' => $result,
                    'file' => null,
                    'name' => $file['name'],
                    'lines' => array_map(static fn (): string => '', $result['errors']),
                ],
                422,
            );
        }
        $this->say(\sprintf('Took over %d %s from %s.', $result['created'], Importers::words($kind), $file['name']));

        return $this->redirectToRoute('import', ['company' => $desk->company->code, 'kind' => $kind], 303);
    }

    /** A long file: how far its check or its taking over is, and what came of it. */
    #[Route('/file/{id<\d+>}', name: 'import_file', methods: ['GET'])]
    #[Needs(Permission::Enter)]
    public function long(Desk $desk, int $id, JobQuery $jobs): Response
    {
        $job = $jobs->last($this->longFile->kind(), $id);
        if (null === $job || null === $jobs->one($desk, $job['id'])) {
            throw $this->createNotFoundException('There is no such file in this company.');
        }
        ['kind' => $kind, 'dryRun' => $dryRun] = ImportLongFile::asked($job['options']);
        if ($job['state']->underWay()) {
            return $this->page($desk, $kind, ['job' => $job]);
        }
        $lot = null === $job['result'] ? $this->lots->ofFile($desk->id(), $id) : null;
        if (null !== $lot) {
            return $this->redirectToRoute('import_lot', ['company' => $desk->company->code, 'id' => $lot['id']]);
        }
        if (null === $job['result']) {
            return $this->page($desk, $kind, ['refused' => $job['said']], 422);
        }
        $result = [
            'created' => $job['result']['created'],
            'errors' => array_map(
                static fn (array $p): Problem => new Problem((string) $p['field'], (string) $p['message'], $p['line']),
                $job['result']['errors'],
            ),
        ];

        return $this->page(
            $desk,
            $kind,
            [
                'result' => $result,
                'taken' => !$dryRun && [] === $result['errors'],
                'file' => !$dryRun || [] !== $result['errors'] ? null : $id,
                'name' => $job['result']['name'],
                'before' => $job['result']['before'] ?? null,
                'lines' => array_column($job['result']['errors'], 'text'),
            ],
            [] === $result['errors'] ? 200 : 422,
        );
    }

    private function later(
        Desk $desk,
        int $id,
        string $kind,
        string $bytes,
        bool $dryRun,
        bool $again = false,
    ): Response {
        $this->longFile->start($desk->actor, $id, $kind, $bytes, $dryRun, $again);

        return $this->redirectToRoute('import_file', ['company' => $desk->company->code, 'id' => $id], 303);
    }

    private function electronic(Desk $desk, string $xml, string $name): Response
    {
        $taken = $this->takeElectronicInvoice->take($desk->actor, $xml, $name);
        $this->say(
            trim(
                'The electronic invoice is read into this draft; look through it and post. '.
                    implode(' ', $taken['matched']),
            ),
        );
        foreach ($taken['said'] as $text) {
            $this->addFlash('refused', $text);
        }

        return $this->redirectToRoute(
            'invoice_draft',
            ['company' => $desk->company->code, 'side' => 'payables', 'id' => $taken['draft']],
            303,
        );
    }

    private function order(Desk $desk, string $xml): Response
    {
        $id = $this->takeElectronicOrder->take($desk->actor, $xml);
        $this->say('The order is entered; look through it.');

        return $this->redirectToRoute('order', ['company' => $desk->company->code, 'id' => $id], 303);
    }

    /** @param array<string, mixed> $more */
    private function page(Desk $desk, string $kind, array $more = [], int $status = 200): Response
    {
        $kinds = $this->doors->kinds($desk);
        if ([] === $kinds) {
            throw new AccessDeniedHttpException('Your role may not import here.');
        }
        $columns = [];
        foreach ($kinds as $k) {
            $columns[$k] = isset(self::XML[$k])
                ? ['required' => [self::XML[$k]], 'optional' => []]
                : $this->importers->columns($k);
        }

        return $this->render(
            'import/import.html.twig',
            [
                'kinds' => $kinds,
                'kind' => \in_array($kind, $kinds, true) ? $kind : $kinds[0],
                'what' => Importers::words($kind),
                'columns' => $columns,
                'result' => null,
                'refused' => null,
                'job' => null,
                'taken' => false,
                'file' => null,
                'before' => null,
                'name' => '',
                'lines' => [],
                'lots' => array_filter(
                    $this->lots->open($desk->id()),
                    static fn (array $l): bool => \in_array($l['kind'], $kinds, true),
                ),
                ...$more,
            ],
            new Response(null, $status),
        );
    }
}
