<?php

declare(strict_types=1);

namespace Nelbix\App\Work;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Long work, found again: what is under way, and how what was started ended. */
#[Route('/{company}/long-work', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class WorkController extends Screen
{
    #[Route('', name: 'work', methods: ['GET'])]
    #[Needs(Permission::Enter)]
    public function all(Desk $desk, JobQuery $jobs): Response
    {
        return $this->render('work/list.html.twig', ['jobs' => $jobs->of($desk)]);
    }

    /** How far a job is; asked for again and again by the page that shows it, which is loaded anew when the job has ended. */
    #[Route('/{id<\d+>}', name: 'work_progress', methods: ['GET'])]
    #[Needs(Permission::Enter)]
    public function progress(Desk $desk, int $id, Request $request, JobQuery $jobs): Response
    {
        $job = $jobs->one($desk, $id) ?? throw $this->createNotFoundException('There is no such work in this company.');
        if (!self::isLive($request)) {
            return $this->redirectToRoute($job['route'], [
                'company' => $desk->company->code,
                'id' => $job['subject_id'],
            ]);
        }
        $response = $this->render('work/_progress.html.twig', ['job' => $job]);
        if (!$job['state']->underWay()) {
            $response->headers->set('HX-Refresh', 'true');
        }

        return $response;
    }
}
