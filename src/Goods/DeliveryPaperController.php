<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FileStore;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\File\UploadedFile;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Notes and pictures of a delivery. What was uploaded only leaves as a download. */
#[Route('/{company}/deliveries/{id<\d+>}/paper', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class DeliveryPaperController extends Screen
{
    public const PAPER = 'delivery paper';

    /** A note, or a picture of how it came. */
    #[Route('', name: 'delivery_paper_keep', methods: ['POST'])]
    #[Needs(Permission::RecordDeliveries)]
    public function keepPaper(
        Desk $desk,
        int $id,
        Request $request,
        EntityManagerInterface $entities,
        FileStore $files,
    ): Response {
        $this->found($entities->find(Delivery::class, $id), $desk->id());

        return $this->act(
            static function () use ($desk, $id, $request, $files): string {
                $upload = $request->files->get('paper');
                if (!($upload instanceof UploadedFile) || !$upload->isValid()) {
                    throw Refused::because(
                        'paper',
                        'The file did not arrive whole; it may be too big. Choose it again.',
                    );
                }
                $files->keep(
                    $desk->actor,
                    self::PAPER,
                    $id,
                    $upload->getClientOriginalName(),
                    $upload->getContent(),
                    FileStore::PAPERS,
                    'paper',
                );

                return 'Kept with the delivery.';
            },
            'delivery',
            ['company' => $desk->company->code, 'id' => $id],
        );
    }

    #[Route('/{file<\d+>}', name: 'delivery_paper', methods: ['GET'])]
    #[Needs(Permission::SeeDeliveries)]
    public function paper(Desk $desk, int $id, int $file, FileStore $files): Response
    {
        $found = $files->read($desk->id(), self::PAPER, $file);
        if (null === $found || $found['subject_id'] !== $id) {
            throw $this->createNotFoundException('There is no such paper.');
        }

        return new Response($found['content'], 200, [
            'Content-Type' => 'application/octet-stream',
            'Content-Disposition' => 'attachment; filename="'.FileStore::downloadName($found['name'], $found['media_type']).'"',
        ]);
    }
}
