<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Nelbix\App\Close\Audit\AuditCsv;
use Nelbix\App\Close\Audit\AuditXml;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;
use Symfony\Component\Console\Output\OutputInterface;

#[AsCommand('nelbix:audit-file', 'All that was posted in a span of days, as XML or CSV')]
final class AuditFileCommand extends CompanyCommand
{
    public function __construct(private readonly AuditXml $xml, private readonly AuditCsv $csv)
    {
        parent::__construct();
    }

    protected function configure(): void
    {
        parent::configure();
        $this->addOption('from', null, InputOption::VALUE_REQUIRED, 'the first day')
            ->addOption('to', null, InputOption::VALUE_REQUIRED, 'the last day')
            ->addOption('out', null, InputOption::VALUE_REQUIRED, 'a folder that is there')
            ->addOption('as', null, InputOption::VALUE_REQUIRED, 'xml or csv', 'xml');
    }

    protected function work(InputInterface $input, OutputInterface $output): int
    {
        $company = $this->company($input);
        $from = Day::of((string) $input->getOption('from'), 'from');
        $to = Day::of((string) $input->getOption('to'), 'to');
        if ($from->isAfter($to)) {
            throw Refused::because('from', 'The first day lies after the last.');
        }
        $folder = (string) $input->getOption('out');
        if (!is_dir($folder) || !is_writable($folder)) {
            throw Refused::because('out', \sprintf('There is no folder “%s” to write to.', $folder));
        }
        if ('csv' === $input->getOption('as')) {
            $this->csv->write($company, $from, $to, $folder);
            $written = $folder;
        } elseif ('xml' === $input->getOption('as')) {
            $written = $folder.'/audit-'.$company->code.'.xml';
            $file = fopen($written, 'w') ?: throw new \RuntimeException('No room for the audit file.');
            $this->xml->write($company, $from, $to, static function (string $part) use ($file): void {
                fwrite($file, $part);
            });
            fclose($file);
        } else {
            throw Refused::because('as', 'Write it as xml or csv.');
        }
        self::rows([['written' => $written]], $input, $output);

        return self::SUCCESS;
    }
}
