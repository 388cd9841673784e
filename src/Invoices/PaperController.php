<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FileStore;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\PageImages;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\File\UploadedFile;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/**
 * The paper of a document: kept as it came, shown as pictures of its pages. What was uploaded is never shown by the browser
 * itself; the original only leaves as a download.
 */
#[Route('/{company}/{side}/paper', requirements: ['company' => '[A-Z0-9]{2,12}', 'side' => 'payables|receivables'])]
final class PaperController extends Screen
{
    public function __construct(
        private readonly FileStore $files,
        private readonly PageImages $pages,
        private readonly DocumentQuery $documents,
    ) {
    }

    #[Route('', name: 'paper_keep', methods: ['POST'])]
    #[Needs('enter')]
    public function keep(Desk $desk, Side $side, Request $request): Response
    {
        $upload = $request->files->get('paper');
        try {
            if (!($upload instanceof UploadedFile) || !$upload->isValid()) {
                throw Refused::because('paper', 'The file did not arrive whole; it may be too big. Choose it again.');
            }
            $id = $this->files->keep(
                $desk->actor,
                'paper',
                null,
                $upload->getClientOriginalName(),
                $upload->getContent(),
                FileStore::PAPERS,
                'paper',
            );
            $pages = $this->pages->expect($desk->id(), $id);
            $document = self::int($request->request, 'document');
            if ($document > 0 && $this->documents->exists($desk->id(), $side, $document)) {
                $this->files->give($desk->actor, 'paper', $id, $document);
            }
        } catch (Refused $e) {
            if (isset($id)) {
                $this->files->drop($desk->id(), 'paper', $id);
            }

            return new JsonResponse(['refused' => $e->getMessage()], 422);
        }

        return $this->render(
            'invoices/_paper.html.twig',
            [
                'side' => $side,
                'papers' => [['id' => $id, 'name' => $upload->getClientOriginalName(), 'pages' => $pages]],
            ],
            new Response(null, 201),
        );
    }

    #[Route('/{id<\d+>}/{page<\d+>}.png', name: 'paper_page', methods: ['GET'])]
    #[Needs('see')]
    public function page(Desk $desk, Side $side, int $id, int $page): Response
    {
        $file = $this->mine($desk, $side, $id);
        if ($page < 1 || $page > $file['pages']) {
            throw $this->createNotFoundException('The paper has no such page.');
        }
        $png = $this->pages->page($file['sha256'], $page);
        if (null === $png) {
            $this->pages->ask($desk->id(), $id);
        }
        if (!\is_string($png)) {
            return null === $png
                ? new Response('', Response::HTTP_ACCEPTED, ['Retry-After' => '1'])
                : new Response('This page cannot be drawn; open the original.', Response::HTTP_UNPROCESSABLE_ENTITY);
        }

        return new Response($png, 200, [
            'Content-Type' => 'image/png',
            'Content-Disposition' => 'inline; filename="page.png"',
        ]);
    }

    #[Route('/{id<\d+>}/original', name: 'paper_original', methods: ['GET'])]
    #[Needs('see')]
    public function original(Desk $desk, Side $side, int $id): Response
    {
        $file = $this->mine($desk, $side, $id);
        $name = FileStore::downloadName($file['name'], $file['media_type']);

        return new Response($file['content'], 200, [
            'Content-Type' => 'application/octet-stream',
            'Content-Disposition' => 'attachment; filename="'.$name.'"',
        ]);
    }

    /**
     * @return array{id: int, name: string, media_type: string, content: string, created_by: int, subject_id: ?int, sha256: string,
     *     pages: int}
     */
    private function mine(Desk $desk, Side $side, int $id): array
    {
        $file = $this->files->read($desk->id(), 'paper', $id);
        // a paper without a document yet is its clerk's alone; one of a document belongs to the document's side
        $allowed =
            null !== $file
            && (null === $file['subject_id']
                ? $file['created_by'] === $desk->actor->userId
                : $this->documents->exists($desk->id(), $side, (int) $file['subject_id']));

        return $allowed ? $file : throw $this->createNotFoundException('There is no such paper in this company.');
    }
}
