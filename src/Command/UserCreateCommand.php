<?php

declare(strict_types=1);

namespace Nelbix\App\Command;

use Nelbix\App\People\AddPerson;
use Nelbix\App\People\FirstPerson;
use Nelbix\App\Platform\Company;
use Nelbix\Core\Refused;
use Symfony\Component\Console\Attribute\AsCommand;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;
use Symfony\Component\Console\Output\OutputInterface;
use Symfony\Component\Routing\Generator\UrlGeneratorInterface;

#[AsCommand('nelbix:user:create', 'Adds a person and prints the link that sets the password')]
final class UserCreateCommand extends CompanyCommand
{
    public function __construct(
        private readonly AddPerson $addPerson,
        private readonly FirstPerson $firstPerson,
        private readonly UrlGeneratorInterface $urls,
    ) {
        parent::__construct();
    }

    protected function configure(): void
    {
        parent::configure();
        $this->addArgument('name', InputArgument::REQUIRED, 'what the person signs in as')
            ->addOption('role', null, InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY, 'one or more')
            ->addOption('full-name', null, InputOption::VALUE_REQUIRED)
            ->addOption('email', null, InputOption::VALUE_REQUIRED, '', '')
            ->addOption('limit', null, InputOption::VALUE_REQUIRED, 'approves up to, base currency', '')
            ->addOption('reason', null, InputOption::VALUE_REQUIRED, 'why duties better kept apart are together', '');
    }

    protected function work(InputInterface $input, OutputInterface $output): int
    {
        $username = (string) $input->getArgument('name');
        $raw = [
            'username' => $username,
            'name' => (string) ($input->getOption('full-name') ?? $username),
            'email' => (string) $input->getOption('email'),
            'roles' => (array) $input->getOption('role'),
            'limit' => (string) $input->getOption('limit'),
            'reason' => (string) $input->getOption('reason'),
        ];
        $token = $this->isFirst($input)
            ? $this->first($raw)
            : $this->addPerson->add($this->actor($input), $raw)['token'];
        $link =
            null === $token
                ? ''
                : $this->urls->generate('personal_link', ['token' => $token], UrlGeneratorInterface::ABSOLUTE_URL);
        self::rows([['name' => $username, 'link' => $link]], $input, $output);

        return self::SUCCESS;
    }

    /** There is no company yet, and none is named: the person makes it. */
    private function isFirst(InputInterface $input): bool
    {
        return '' === (string) $input->getOption('company')
            && null === $this->entities->getRepository(Company::class)->findOneBy([]);
    }

    /** @param array{roles: array<mixed>, ...} $raw */
    private function first(array $raw): string
    {
        if (!\in_array($raw['roles'], [[], ['controller']], true)) {
            throw Refused::because('role', 'The first person of a new installation is its controller.');
        }

        return $this->firstPerson->withLink($raw);
    }
}
