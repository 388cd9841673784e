<?php

declare(strict_types=1);

namespace Nelbix\App\Outbox;

use Nelbix\App\Invoices\InvoicePrint;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Paper;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Ledger\Side;
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
    public function print(Desk $desk, Request $request, InvoicePrint $print, Paper $paper): Response
    {
        $printed = $print->of($desk->company, \array_slice(self::ids($request), 0, SendInvoices::MOST));
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
    public function send(Desk $desk, Request $request, SendInvoices $send): Response
    {
        $ids = self::ids($request);
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
