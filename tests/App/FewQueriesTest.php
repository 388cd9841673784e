<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\People\User;

/** Every page of a company asks the database at most a dozen questions of its own. */
final class FewQueriesTest extends ScreenCase
{
    use EveryRoute;

    /** Who asks, in what company, whether the sign-in still holds, and how dates are written there. */
    private const WHO_ASKS = 4;
    private const OWN = 12;

    /** A form that is worked out as posting it would, before anybody types, asks for all that posting asks for. */
    private const MORE = ['invoice_put_right' => 7];

    public function testEveryPage(): void
    {
        $ids = $this->ofAnother();
        $user =
            self::get(EntityManagerInterface::class)
                ->getRepository(User::class)
                ->findOneBy(['username' => 'controller']) ?? self::fail();
        $this->db()->executeStatement(
            "INSERT INTO membership (user_id, company_id, role, duties_reason) VALUES (?, ?, 'controller', '')",
            [$user->id(), $ids['company']],
        );
        // whoever stands in for somebody is asked for that, too
        $this->db()->executeStatement('DELETE FROM substitute');
        SignedIn::as($this->browser, $user);
        $many = [];
        $seen = 0;
        foreach (self::doorsOf(self::getContainer()->get('router')) as [$name, $method, $side, $path]) {
            if ('GET' !== $method) {
                continue;
            }
            $own = $this->fill($path, 'OTHER', $side, $ids);
            $this->browser->request('GET', $own); // what a first call reads and keeps is not the page's
            $seen += 200 === $this->browser->getResponse()->getStatusCode() ? 1 : 0;
            $asked = array_values(
                array_filter(
                    self::get(QueryLog::class)->during(fn () => $this->browser->request('GET', $own)),
                    static fn (array $q): bool => 1 === preg_match('/\A\s*(SELECT|WITH)/', $q['sql']),
                ),
            );
            if (\count($asked) > self::WHO_ASKS + self::OWN + (self::MORE[$name] ?? 0)) {
                $many[$own] = [\count($asked), ...array_map(self::short(...), \array_slice($asked, self::WHO_ASKS))];
            }
        }
        self::assertSame([], $many);
        self::assertGreaterThan(100, $seen, 'that many pages');
    }

    /** @param array{sql: string, with: list<mixed>} $query */
    private static function short(array $query): string
    {
        return mb_strimwidth((string) preg_replace('/\s+/', ' ', $query['sql']), 0, 160);
    }
}
