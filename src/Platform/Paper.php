<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Dompdf\Dompdf;
use Dompdf\Options;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Process\Process;
use Twig\Environment;

/** Sets a template as PDF. Nothing is fetched: no remote files, no scripts, fonts from the package. */
final readonly class Paper
{
    public function __construct(private Environment $twig)
    {
    }

    /**
     * @param array<string, mixed> $with
     * @param bool $list true sets it landscape, with "page n of m" at the foot
     */
    public function pdf(string $template, array $with, string $name, bool $list = false): Response
    {
        return new Response($this->bytes($template, $with, $list), 200, [
            'Content-Type' => 'application/pdf',
            'Content-Disposition' => 'inline; filename="'.preg_replace('/[^A-Za-z0-9._-]/', '-', $name).'.pdf"',
        ]);
    }

    /**
     * Several PDFs as one, in their order. Poppler's pdfunite does it.
     *
     * @param list<string> $parts
     */
    public static function united(array $parts): string
    {
        if (1 === \count($parts)) {
            return $parts[0];
        }
        $folder = sys_get_temp_dir().'/nelbix-'.bin2hex(random_bytes(8));
        mkdir($folder, 0700);
        try {
            $files = [];
            foreach ($parts as $k => $bytes) {
                file_put_contents($files[] = \sprintf('%s/%05d.pdf', $folder, $k), $bytes);
            }
            (new Process(['pdfunite', ...$files, $folder.'/all.pdf'], null, null, null, 120))->mustRun();

            return (string) file_get_contents($folder.'/all.pdf');
        } finally {
            array_map('unlink', glob($folder.'/*') ?: []);
            rmdir($folder);
        }
    }

    /** @param array<string, mixed> $with */
    public function bytes(string $template, array $with, bool $list = false): string
    {
        $options = new Options();
        $options->setIsRemoteEnabled(false);
        $options->setIsPhpEnabled(false);
        $options->setIsJavascriptEnabled(false);
        $options->setDefaultFont('DejaVu Sans');
        $options->setChroot([sys_get_temp_dir()]);
        $dompdf = new Dompdf($options);
        $dompdf->loadHtml($this->twig->render($template, $with), 'UTF-8');
        $dompdf->setPaper('letter', $list ? 'landscape' : 'portrait');
        $dompdf->render();
        if ($list) {
            $canvas = $dompdf->getCanvas();
            $font = (string) $dompdf->getFontMetrics()->getFont('DejaVu Sans');
            $canvas->page_text(
                $canvas->get_width() - 110,
                $canvas->get_height() - 32,
                'page {PAGE_NUM} of {PAGE_COUNT}',
                $font,
                7,
            );
        }

        return (string) $dompdf->output();
    }
}
