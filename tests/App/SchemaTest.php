<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Symfony\Bundle\FrameworkBundle\Console\Application;
use Symfony\Bundle\FrameworkBundle\Test\KernelTestCase;
use Symfony\Component\Console\Tester\ApplicationTester;

/** The mapping says what the migrations made: every column there and of its kind, nullable where it is. */
final class SchemaTest extends KernelTestCase
{
    public function testMappingAndSchemaAgree(): void
    {
        self::assertStringContainsString(
            'Nothing to update',
            $this->said(['doctrine:schema:update', '--dump-sql' => true]),
        );
        self::assertStringContainsString('in sync', $this->said(['doctrine:schema:validate']));
    }

    /** @param array<int|string, string|true> $command */
    private function said(array $command): string
    {
        $application = new Application(self::bootKernel());
        $application->setAutoExit(false);
        $tester = new ApplicationTester($application);
        $tester->run(['command' => $command[0], ...\array_slice($command, 1)]);

        return $tester->getDisplay();
    }
}
