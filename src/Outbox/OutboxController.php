<?php

declare(strict_types=1);

namespace Nelbix\App\Outbox;

use Nelbix\App\Invoices\InvoicePrint;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Paper;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Work\JobQuery;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** What was sent, and sending and printing many invoices at once. */
#[Route('/{company}', requirements: ['company' => '[A-Z0-9]{2,12}', 'side' => 'payables|receivables'])]
final class OutboxController extends Screen
{
    public function __construct(private readonly OutboxQuery $outbox)
    {
    }

    #[Route('/{side}/outbox', name: 'outbox', methods: ['GET'])]
    #[Needs('see')]
    public function list(Desk $desk, Side $side, Request $request): Response
    {
        $rows = $this->outbox->list($desk->id(), $side, self::wantsFile($request) ? null : OutboxQuery::LISTED);
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'outbox',
                ['to', 'subject', 'document', 'sent', 'by', 'bytes'],
                array_map(
                    static fn (array $r): array => [
                        (string) $r['recipient'],
                        (string) $r['subject'],
                        (string) $r['number'],
                        (string) $r['created_at'],
                        (string) $r['name'],
                        (string) $r['size'],
                    ],
                    $rows,
                ),
            );
        }

        return $this->render('outbox/list.html.twig', ['rows' => $rows, 'side' => $side]);
    }

    #[Route('/{side}/outbox/{id<\d+>}.eml', name: 'outbox_message', methods: ['GET'])]
    #[Needs('see')]
    public function message(Desk $desk, Side $side, int $id): Response
    {
        $message =
            $this->outbox->message($desk->id(), $side, $id) ??
            throw $this->createNotFoundException('There is no such message in this company.');

        return new Response($message, 200, [
            'Content-Type' => 'message/rfc822',
            'Content-Disposition' => 'attachment; filename="'.$id.'.eml"',
        ]);
    }

    #[Route('/receivables/print', name: 'invoices_print', methods: ['POST'])]
    #[Needs(Permission::SeeReceivables)]
    public function print(Desk $desk, Request $request, InvoicePrint $print, Paper $paper, InvoiceList $list): Response
    {
        $ids = self::ids($request);
        if (\count($ids) > InvoiceList::AT_ONCE) {
            return $this->listed($desk, $list->start($desk->actor, $desk->company, $ids, true));
        }
        $printed = $print->of($desk->company, $ids);
        if ([] === $printed) {
            $this->addFlash('refused', 'Pick at least one posted invoice; Space picks a row.');

            return $this->redirectToRoute(
                'documents',
                ['company' => $desk->company->code, 'side' => 'receivables'],
                303,
            );
        }

        return $paper->pdf('invoices/invoice_pdf.html.twig', ['printed' => $printed], 'invoices');
    }

    #[Route('/receivables/send', name: 'invoices_send', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function send(Desk $desk, Request $request, SendInvoices $send, InvoiceList $list): Response
    {
        $ids = self::ids($request);
        if (\count($ids) > InvoiceList::AT_ONCE) {
            try {
                return $this->listed($desk, $list->start($desk->actor, $desk->company, $ids, false));
            } catch (Refused $e) {
                $this->addFlash('refused', $e->getMessage());

                return $this->redirectToRoute(
                    'documents',
                    ['company' => $desk->company->code, 'side' => 'receivables'],
                    303,
                );
            }
        }
        $back = self::int($request->request, 'document');

        return $this->act(
            static function () use ($desk, $send, $ids): string {
                $sent = $send->send($desk->actor, $desk->company, $ids);

                return \sprintf('%d %s sent; see the outbox.', $sent, 1 === $sent ? 'message is' : 'messages are');
            },
            $back > 0 ? 'document' : 'documents',
            ['company' => $desk->company->code, 'side' => 'receivables', ...$back > 0 ? ['id' => $back] : []],
        );
    }

    /** Many invoices: how far their sending or printing is, and what came of it. */
    #[Route('/receivables/list/{id<\d+>}', name: 'invoice_list', methods: ['GET'])]
    #[Needs(Permission::SeeReceivables)]
    public function many(Desk $desk, int $id, JobQuery $jobs, InvoiceList $list): Response
    {
        $job = $jobs->last($list->kind(), $id);
        if (null === $job || null === $jobs->one($desk, $job['id'])) {
            throw $this->createNotFoundException('There is no such list in this company.');
        }

        return $this->render('outbox/many.html.twig', [
            'job' => $job,
            'id' => $id,
            'pdf' => !$job['state']->underWay() && null !== $list->pdf($desk->actor, $id),
        ]);
    }

    #[Route('/receivables/list/{id<\d+>}.pdf', name: 'invoice_list_pdf', methods: ['GET'])]
    #[Needs(Permission::SeeReceivables)]
    public function manyAsPdf(Desk $desk, int $id, InvoiceList $list): Response
    {
        $pdf =
            $list->pdf($desk->actor, $id) ??
            throw $this->createNotFoundException('There is no such list in this company.');

        return new Response($pdf, 200, [
            'Content-Type' => 'application/pdf',
            'Content-Disposition' => 'inline; filename="invoices.pdf"',
        ]);
    }

    private function listed(Desk $desk, int $id): Response
    {
        return $this->redirectToRoute('invoice_list', ['company' => $desk->company->code, 'id' => $id], 303);
    }

    /** @return list<int> */
    private static function ids(Request $request): array
    {
        return array_values(
            array_filter(
                array_map(static fn (mixed $v): int => \is_string($v) ? (int) $v : 0, $request->request->all('ids')),
            ),
        );
    }
}
