<?php

declare(strict_types=1);

namespace Nelbix\App\Outbox;

use Nelbix\App\Payables\RemittanceAdvice;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Paper;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Money\Money;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Remittance advice of a payment, or of all payments of a run: on paper, as a list, by mail. */
#[Route('/{company}/payables/remittance', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class RemittanceController extends Screen
{
    public function __construct(private readonly RemittanceAdvice $advice)
    {
    }

    #[Route('.pdf', name: 'remittance', methods: ['GET'])]
    #[Needs(Permission::SeePayables)]
    public function pdf(Desk $desk, Request $request, Paper $paper): Response
    {
        $advices = $this->advice->of($desk->id(), $this->ids($desk, $request));

        return [] === $advices
            ? throw $this->createNotFoundException('There is no payment here that stands.')
            : $paper->pdf(
                'payables/remittance_pdf.html.twig',
                ['company' => $desk->company, 'advices' => $advices],
                'remittance',
            );
    }

    #[Route('', name: 'remittance_file', methods: ['GET'])]
    #[Needs(Permission::SeePayables)]
    public function list(Desk $desk, Request $request): Response
    {
        $rows = [];
        foreach ($this->advice->of($desk->id(), $this->ids($desk, $request)) as $a) {
            $cell = static fn (int $minor): string => Money::of($minor, (string) $a['d']['currency'])->decimal();
            foreach ($a['lines'] as $l) {
                $rows[] = [
                    (string) $a['d']['number'],
                    (string) $a['d']['posting_date'],
                    (string) $a['d']['code'],
                    (string) $a['d']['name'],
                    (string) $a['d']['reference'],
                    $l['number'],
                    $l['their_number'],
                    (string) $a['d']['currency'],
                    $cell($l['applied']),
                    $cell($l['discount']),
                    $cell($l['withholding']),
                    $cell($l['paid']),
                ];
            }
        }

        return $this->exported(
            $request,
            'remittance',
            [
                'payment',
                'date',
                'vendor',
                'name',
                'reference',
                'document',
                'their_number',
                'currency',
                'settled',
                'discount',
                'withholding',
                'paid',
            ],
            $rows,
        );
    }

    #[Route('/send', name: 'remittance_send', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function send(Desk $desk, Request $request, SendRemittance $send): Response
    {
        $run = self::int($request->request, 'run');
        $document = self::int($request->request, 'payment');

        $advice = $this->advice;

        return $this->act(
            static function () use ($desk, $request, $send, $advice, $run, $document): string {
                $ids = $run > 0 ? $advice->ofRun($desk->id(), $run) : [$document];
                $said = $send->send($desk->actor, $desk->company, $ids, '' !== $request->request->get('leave_out', ''));

                return \sprintf(
                    '%d %s sent; see the outbox.%s',
                    $said['sent'],
                    1 === $said['sent'] ? 'message is' : 'messages are',
                    [] === $said['left']
                        ? ''
                        : ' Left out for want of an address: '.implode(', ', $said['left']).'.',
                );
            },
            $run > 0 ? 'proposal' : 'document',
            $run > 0
                ? ['company' => $desk->company->code, 'id' => $run]
                : ['company' => $desk->company->code, 'side' => 'payables', 'id' => $document],
        );
    }

    /** @return list<int> */
    private function ids(Desk $desk, Request $request): array
    {
        return self::int($request->query, 'run') > 0
            ? $this->advice->ofRun($desk->id(), self::int($request->query, 'run'))
            : [self::int($request->query, 'payment')];
    }
}
