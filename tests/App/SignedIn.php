<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\People\Presences;
use Nelbix\App\People\User;
use PHPUnit\Framework\Assert;
use Symfony\Bundle\FrameworkBundle\KernelBrowser;

/** Signs somebody in to a browser of the tests, with the presence that a real sign-in begins. */
final class SignedIn
{
    /** @return int the presence */
    public static function as(KernelBrowser $browser, User|string $who): int
    {
        $container = $browser->getContainer()->get('test.service_container');
        Assert::assertInstanceOf(\Psr\Container\ContainerInterface::class, $container);
        $entities = $container->get(EntityManagerInterface::class);
        $presences = $container->get(Presences::class);
        Assert::assertInstanceOf(EntityManagerInterface::class, $entities);
        Assert::assertInstanceOf(Presences::class, $presences);
        $user = $who instanceof User ? $who : $entities->getRepository(User::class)->findOneBy(['username' => $who]);
        Assert::assertInstanceOf(User::class, $user);
        $presence = $presences->begin($user->id(), null, true);
        $browser->loginUser($user, 'main', ['presence' => $presence]);

        return $presence;
    }
}
