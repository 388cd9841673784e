<?php

declare(strict_types=1);

namespace Nelbix\App\Receivables;

use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Paper;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Money\Money;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Reminders: who gets which rung and why, on paper; and promises that stop them. */
#[Route('/{company}/receivables', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class RemindersController extends Screen
{
    public function __construct(private readonly RemindersQuery $reminders)
    {
    }

    #[Route('/reminders', name: 'reminders', methods: ['GET'])]
    #[Needs(Permission::SeeReceivables)]
    public function list(Desk $desk, Request $request): Response
    {
        $base = $desk->company->baseCurrency;
        $rows = $this->reminders->of($desk->id(), $base, $desk->today);
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'reminders',
                ['customer', 'name', 'rung', 'why', 'items', 'overdue', 'fee', 'email'],
                array_map(
                    static fn (array $r): array => [
                        $r['code'],
                        $r['name'],
                        (string) $r['rung'],
                        $r['why'],
                        (string) \count($r['items']),
                        Money::of($r['overdue'], $base)->decimal(),
                        Money::of($r['fee'], $base)->decimal(),
                        $r['email'],
                    ],
                    $rows,
                ),
            );
        }

        return $this->render('receivables/reminders.html.twig', ['rows' => $rows]);
    }

    #[Route('/reminders/print.pdf', name: 'reminders_pdf', methods: ['GET'])]
    #[Needs(Permission::SeeReceivables)]
    public function pdf(Desk $desk, Request $request, Paper $paper): Response
    {
        $keys = array_filter($request->query->all('keys'), 'is_string');
        $picked = array_filter(
            $this->reminders->of($desk->id(), $desk->company->baseCurrency, $desk->today),
            static fn (array $r): bool => \in_array($r['key'], $keys, true),
        );

        if ([] === $picked) {
            $this->addFlash('refused', 'Nothing is printed: none of what is picked is to be reminded now.');

            return $this->redirectToRoute('reminders', ['company' => $desk->company->code], 303);
        }

        return $paper->pdf(
            'receivables/reminder_pdf.html.twig',
            ['company' => $desk->company, 'day' => $desk->today, 'reminders' => array_values($picked)],
            'reminders',
        );
    }

    #[Route('/party/{id<\d+>}/promise', name: 'promise_keep', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function promise(Desk $desk, int $id, Request $request, Promises $promises, BooksDay $booksDay): Response
    {
        return $this->act(
            static function () use ($desk, $id, $request, $promises, $booksDay): string {
                $text = (new Fields($request->request->all()))->text(...);
                $until = $booksDay->input($desk->id())->read($text('until'), 'until');
                $promises->keep($desk->actor, $id, $until, $text('text'));

                return \sprintf('Nobody is reminded here through %s.', $until->long());
            },
            'party',
            ['company' => $desk->company->code, 'side' => 'receivables', 'id' => $id],
        );
    }
}
