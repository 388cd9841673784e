<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Audit;

use Nelbix\App\Close\Reports\Span;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Symfony\Component\HttpFoundation\BinaryFileResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\HttpFoundation\StreamedResponse;
use Symfony\Component\Routing\Attribute\Route;

/** The audit file, for a controller or an auditor. */
#[Route('/{company}/close/audit-file', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class AuditController extends Screen
{
    #[Route('', name: 'audit_file', methods: ['GET'])]
    #[Needs(Permission::SeeSetup)]
    public function page(
        Desk $desk,
        Request $request,
        BooksDay $booksDay,
        PeriodGate $periods,
        AuditRows $rows,
        AuditXml $xml,
        AuditCsv $csv,
    ): Response {
        $span = Span::asked($desk, $request, $booksDay, $periods);
        $name = \sprintf('audit-%s-%s-%s', $desk->company->code, $span->from->iso(), $span->to->iso());
        if (null === $span->error && 'xml' === $request->query->get('as')) {
            return $this->streamed($xml, $desk->company, $span, $name);
        }
        if (null === $span->error && 'csv' === $request->query->get('as')) {
            return $this->zipped($csv, $desk->company, $span, $name);
        }

        return $this->render('close/audit.html.twig', [
            'span' => $span,
            'totals' => $rows->totals($desk->id(), $span->from, $span->to),
        ]);
    }

    private function streamed(AuditXml $xml, Company $company, Span $span, string $name): Response
    {
        $response = new StreamedResponse(static function () use ($xml, $company, $span): void {
            $xml->write($company, $span->from, $span->to, static function (string $part): void {
                echo $part;
                flush();
            });
        });
        $response->headers->set('Content-Type', 'application/xml; charset=UTF-8');
        $response->headers->set('Content-Disposition', 'attachment; filename="'.$name.'.xml"');

        return $response;
    }

    private function zipped(AuditCsv $csv, Company $company, Span $span, string $name): Response
    {
        $folder = sys_get_temp_dir().'/nelbix-audit-'.bin2hex(random_bytes(8));
        mkdir($folder, 0700);
        try {
            $csv->write($company, $span->from, $span->to, $folder);
            $path = tempnam(sys_get_temp_dir(), 'nelbix') ?: throw new \RuntimeException('No room for a file.');
            $zip = new \ZipArchive();
            $zip->open($path, \ZipArchive::OVERWRITE);
            foreach (glob($folder.'/*.csv') ?: [] as $file) {
                $zip->addFile($file, basename($file));
            }
            $zip->close();
        } finally {
            array_map(unlink(...), glob($folder.'/*.csv') ?: []);
            rmdir($folder);
        }

        return (new BinaryFileResponse(
            $path,
            200,
            [
                'Content-Type' => 'application/zip',
                'Content-Disposition' => 'attachment; filename="'.$name.'.zip"',
            ],
            false,
        ))->deleteFileAfterSend();
    }
}
