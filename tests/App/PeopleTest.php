<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\People\AddPerson;
use Nelbix\App\People\Attempts;
use Nelbix\App\People\ChangePerson;
use Nelbix\App\People\LoseSecondFactor;
use Nelbix\App\People\OneTimeCode;
use Nelbix\App\People\PersonalLinks;
use Nelbix\App\People\Presences;
use Nelbix\App\People\RetirePerson;
use Nelbix\App\People\Role;
use Nelbix\App\People\SecondFactor;
use Nelbix\App\People\SetPassword;
use Nelbix\App\People\SomebodyElse;
use Nelbix\App\People\StandIn;
use Nelbix\App\People\Substitutes;
use Nelbix\App\People\User;
use Nelbix\App\Platform\Actor;
use Symfony\Component\DomCrawler\Crawler;

/** People, their roles, their way in, and what ends it. Source: product.md, Who uses it; OWASP ASVS 4.0, 2 and 3. */
final class PeopleTest extends ScreenCase
{
    private const GOOD = 'eleven wet geese';

    private function user(string $username): User
    {
        return self::get(EntityManagerInterface::class)
            ->getRepository(User::class)
            ->findOneBy(['username' => $username]) ?? self::fail($username);
    }

    /** @param list<string> $roles */
    private function added(string $username, array $roles = ['payables'], string $reason = ''): User
    {
        ['token' => $token] = self::get(AddPerson::class)->add($this->clerk, [
            'username' => $username,
            'name' => ucfirst($username).' Person',
            'roles' => $roles,
            'reason' => $reason,
        ]);
        self::get(SetPassword::class)->byLink((string) $token, self::GOOD, self::GOOD, null);

        return $this->user($username);
    }

    private function typed(string $username, string $password): Crawler
    {
        $this->browser->getCookieJar()->clear();
        $page = $this->browser->request('GET', '/sign-in');
        $this->browser->submit(
            $page->selectButton('Sign in')->form(['_username' => $username, '_password' => $password]),
        );

        return $this->browser->followRedirect();
    }

    /** @return list<string> */
    private function noted(string $username): array
    {
        /** @var list<string> */
        return $this->db()->fetchFirstColumn('SELECT what FROM sign_in WHERE user_id = ? ORDER BY id', [
            $this->user($username)->id(),
        ]);
    }

    private function isIn(string $path = '/TEST'): bool
    {
        $this->browser->request('GET', $path);

        return 200 === $this->browser->getResponse()->getStatusCode();
    }

    public function testAPersonIsAddedSetsAPasswordByTheirLinkOnceAndSignsIn(): void
    {
        $page = $this->post('/TEST/people', '/TEST/people', [
            'username' => 'marlow',
            'name' => 'Iris Marlow',
            'email' => 'marlow@tamarack.example',
            'roles' => ['payables'],
        ]);
        $link = (string) $page->filter('input[data-select]')->attr('value');
        self::assertMatchesRegularExpression('#/link/[A-Za-z0-9_-]{43}\z#', $link);
        self::assertStringNotContainsString(
            $link,
            $this->page('/TEST/people/'.$this->user('marlow')->id())->html(),
            'shown once',
        );
        self::assertSame('', $this->user('marlow')->passwordHash);
        $this->browser->getCookieJar()->clear();
        $set = function (string $password, string $again) use ($link): int {
            $page = $this->browser->request('GET', $link);
            $button = $page->selectButton('Set it');
            if (0 === $button->count()) {
                return $this->browser->getResponse()->getStatusCode();
            }
            $this->browser->submit($button->form(['password' => $password, 'again' => $again]));

            return $this->browser->getResponse()->getStatusCode();
        };
        self::assertSame(422, $set('short', 'short'));
        self::assertSame(422, $set(self::GOOD, 'something else again'));
        self::assertSame(422, $set('my name is marlow', 'my name is marlow'));
        self::assertSame(422, $set('password1234', 'password1234'));
        self::assertSame(422, $set('aaaaaaaaaaaaaaaa', 'aaaaaaaaaaaaaaaa'));
        self::assertSame(303, $set(self::GOOD, self::GOOD));
        self::assertSame(404, $set(self::GOOD, self::GOOD), 'a link is good once');
        $this->typed('marlow', self::GOOD);
        self::assertTrue($this->isIn());
        self::assertFalse($this->isIn('/TEST/setup'), 'a payables clerk has no setup');
        self::assertSame(['password set', 'signed in'], $this->noted('marlow'));
    }

    public function testALinkEndsWithItsDayAndWithANewerOne(): void
    {
        $links = self::get(PersonalLinks::class);
        $first = $links->make($this->user('payables'));
        $second = $links->make($this->user('payables'));
        self::assertNull($links->open($first));
        self::assertNotNull($links->open($second));
        $this->db()->executeStatement("UPDATE personal_link SET expires_at = '2020-01-01'");
        self::assertNull($links->open($second));
        $third = $links->make($this->user('payables'));
        self::get(RetirePerson::class)->set($this->clerk, $this->user('payables')->id(), true, '');
        self::assertNull($links->open($third), 'nor for somebody retired');
    }

    public function testAnOpenSessionEndsWithRetiringANewPasswordAndALostRole(): void
    {
        $otter = $this->added('otter', ['payables']);
        $this->typed('otter', self::GOOD);
        $token = (string) $this->page('/TEST/payables/invoice')->filter('input[name=_token]')->last()->attr('value');
        self::get(RetirePerson::class)->set($this->clerk, $otter->id(), true, 'left the yard');
        $this->browser->request('POST', '/TEST/payables/invoice', ['_token' => $token, 'party' => 'V-1']);
        self::assertTrue($this->browser->getResponse()->isRedirect(), 'nothing is posted any more');
        self::assertFalse($this->isIn());
        $this->typed('otter', self::GOOD);
        self::assertFalse($this->isIn(), 'nor can they sign in');

        self::get(RetirePerson::class)->set($this->clerk, $otter->id(), false, '');
        $this->typed('otter', self::GOOD);
        self::assertTrue($this->isIn());
        $link = self::get(PersonalLinks::class)->make($this->user('otter'));
        self::get(SetPassword::class)->byLink($link, self::GOOD.' more', self::GOOD.' more', null);
        self::assertFalse($this->isIn(), 'a new password ends it');

        $this->typed('otter', self::GOOD.' more');
        self::assertTrue($this->isIn());
        $change = self::get(ChangePerson::class);
        $change->change($this->clerk, $otter->id(), [
            'name' => 'O',
            'roles' => ['payables', 'auditor'],
            'reason' => 'because',
        ]);
        self::assertTrue($this->isIn(), 'one role more ends nothing');
        $change->change($this->clerk, $otter->id(), ['name' => 'O', 'roles' => ['auditor']]);
        self::assertFalse($this->isIn(), 'one less does');
    }

    public function testOnesOwnPasswordIsChangedAndOnlyThisPlaceStaysSignedIn(): void
    {
        $otter = $this->added('otter');
        $elsewhere = self::get(Presences::class)->begin($otter->id(), null, true);
        $this->typed('otter', self::GOOD);
        $post = fn (string $present): Crawler => $this->post('/TEST/own', '/TEST/own/password', [
            'present' => $present,
            'password' => 'twelve dry herons',
            'again' => 'twelve dry herons',
        ]);
        self::assertStringContainsString('not your present password', $post('wrong')->text());
        self::assertStringContainsString('Your new password holds', $post(self::GOOD)->text());
        self::assertTrue($this->isIn());
        self::assertNotNull($this->db()->fetchOne('SELECT ended_at FROM presence WHERE id = ?', [$elsewhere]));
    }

    public function testSigningOutElsewhereAndNobodyElse(): void
    {
        $otter = $this->added('otter');
        $theirs = self::get(Presences::class)->begin($this->user('approver')->id(), null, true);
        $one = self::get(Presences::class)->begin($otter->id(), null, true);
        $two = self::get(Presences::class)->begin($otter->id(), null, true);
        $this->typed('otter', self::GOOD);
        $open = fn (int $id): bool => null ===
            $this->db()->fetchOne('SELECT ended_at FROM presence WHERE id = ?', [$id]);
        $this->post('/TEST/own', '/TEST/own/sign-out/'.$theirs, []);
        self::assertSame(404, $this->browser->getResponse()->getStatusCode());
        $this->post('/TEST/own', '/TEST/own/sign-out/'.$one, []);
        self::assertSame([true, false, true], [$open($theirs), $open($one), $open($two)]);
        $this->post('/TEST/own', '/TEST/own/sign-out', []);
        self::assertSame([true, false], [$open($theirs), $open($two)]);
        self::assertTrue($this->isIn());
    }

    public function testWhoeverLeavesTheDeskIsSignedOut(): void
    {
        $this->added('otter');
        $this->typed('otter', self::GOOD);
        $this->db()->executeStatement('UPDATE presence SET seen_at = UTC_TIMESTAMP() - INTERVAL 59 MINUTE');
        self::assertTrue($this->isIn());
        $this->db()->executeStatement('UPDATE presence SET seen_at = UTC_TIMESTAMP() - INTERVAL 61 MINUTE');
        $this->browser->request('GET', '/TEST');
        self::assertStringContainsString('Nobody was there for a while', $this->browser->followRedirect()->text());
        $this->db()->executeStatement(
            "INSERT INTO setting (company_id, name, value) VALUES (?, 'idle_minutes', '10')",
            [$this->clerk->companyId],
        );
        $this->typed('otter', self::GOOD);
        $this->db()->executeStatement('UPDATE presence SET seen_at = UTC_TIMESTAMP() - INTERVAL 11 MINUTE');
        self::assertFalse($this->isIn(), 'the company’s own minutes');
    }

    public function testTheLastControllerStays(): void
    {
        $controller = $this->user('controller')->id();
        $change = fn (): User => self::get(ChangePerson::class)->change($this->clerk, $controller, [
            'name' => 'C',
            'roles' => ['auditor'],
        ]);
        self::assertSame(['roles'], self::refusedFields($change));
        $second = $this->added('second', ['controller'])->id();
        $retire = self::get(RetirePerson::class);
        self::assertSame(
            [''],
            self::refusedFields(fn () => $retire->set($this->clerk, $controller, true, '')),
            'not oneself',
        );
        $change();
        $former = $this->user('controller');
        self::assertSame([Role::Auditor], $former->rolesIn($former->company('TEST') ?? self::fail('no membership')));
        $second = new Actor($this->clerk->companyId, 'USD', $second);
        ['id' => $third] = self::get(AddPerson::class)->add($second, [
            'username' => 'third',
            'name' => 'Third',
            'roles' => ['controller'],
        ]);
        $leave = fn (): User => self::get(ChangePerson::class)->change($second, $second->userId, [
            'name' => 'S',
            'roles' => [],
        ]);
        self::assertSame(['roles'], self::refusedFields($leave), 'one who has no password yet is none');
        $link = self::get(PersonalLinks::class)->make($this->user('third'));
        self::get(SetPassword::class)->byLink($link, self::GOOD, self::GOOD, null);
        $third = new Actor($this->clerk->companyId, 'USD', $third);
        $retire->set($third, $second->userId, true, '');
        $self = fn (): User => self::get(ChangePerson::class)->change($third, $third->userId, [
            'name' => 'T',
            'roles' => [],
        ]);
        self::assertSame(['roles'], self::refusedFields($self));
    }

    public function testDutiesBetterKeptApartWantAReasonAndAreShown(): void
    {
        $id = $this->user('payables')->id();
        $form = ['name' => 'Payables', 'roles' => ['payables', 'approver']];
        $page = $this->post('/TEST/people/'.$id, '/TEST/people/'.$id, $form);
        self::assertStringContainsString('better kept apart', $page->filter('.wrong')->text());
        $this->post('/TEST/people/'.$id, '/TEST/people/'.$id, [
            ...$form,
            'reason' => 'two of us run the yard',
            'limit' => '100+50',
        ]);
        self::assertStringContainsString('together: two of us run the yard', $this->page('/TEST/people')->text());
        self::assertSame(
            '15000',
            (string) $this->db()->fetchOne('SELECT MAX(approval_limit) FROM membership WHERE user_id = ?', [$id]),
        );
        self::assertStringContainsString('two of us', $this->page('/TEST/people/'.$id)->text());
        foreach (
            [
                [['receivables', 'approver'], true],
                [['controller', 'approver'], true],
                [['receiver', 'payables'], true],
                [['auditor', 'receiver'], true],
                [['payables', 'receivables'], false],
                [['receiver', 'approver'], false],
            ] as [$roles, $apart]
        ) {
            self::assertSame($apart, [] !== Role::apart(array_map(Role::from(...), $roles)), implode(' ', $roles));
        }
    }

    public function testWhoAlsoWorksElsewhereIsNotRetiredFromHere(): void
    {
        $here = $this->clerk;
        $this->added('otter');
        $this->makeCompany('OTHER');
        self::get(AddPerson::class)->add($this->clerk, ['username' => 'otter', 'roles' => ['receiver']]);
        $id = $this->user('otter')->id();
        $this->db()->executeStatement(
            "DELETE FROM membership WHERE company_id = ? AND role = 'controller' AND user_id = ?",
            [$this->clerk->companyId, $here->userId],
        );
        self::get(EntityManagerInterface::class)->clear();
        self::assertSame([''], self::refusedFields(fn () => self::get(RetirePerson::class)->set($here, $id, true, '')));
        self::get(ChangePerson::class)->change($here, $id, ['name' => 'Otter', 'roles' => []]);
        self::assertSame(
            [Role::Receiver->value],
            $this->db()->fetchFirstColumn('SELECT role FROM membership WHERE user_id = ?', [$id]),
        );
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(ChangePerson::class)->change($here, $id, ['name' => 'X'])),
        );
    }

    public function testSignInsAreKeptAndNamesCompareByBytes(): void
    {
        $this->added('otter');
        foreach ([['otter', 'wrong'], ['Otter', self::GOOD], ['nobody here', self::GOOD]] as [$name, $password]) {
            self::assertStringContainsString('Invalid credentials', $this->typed($name, $password)->text());
        }
        $this->typed('otter', self::GOOD);
        self::assertSame(['password set', 'refused', 'signed in'], $this->noted('otter'));
        self::assertSame(
            ['Ot…', 'no…'],
            $this->db()->fetchFirstColumn('SELECT name FROM sign_in WHERE user_id IS NULL ORDER BY id'),
            'a password typed into the wrong field is not kept',
        );
        $this->as('controller');
        $page = $this->page('/TEST/people')->text();
        self::assertStringContainsString('refused', $page);
        self::assertStringNotContainsString('nobody here', $page);
    }

    public function testFiveWrongPasswordsOfANameCloseItForAWhileAndNobodyElse(): void
    {
        $this->added('otter');
        $this->added('heron');
        for ($n = 0; $n < 5; ++$n) {
            $this->typed('otter', 'wrong');
        }
        self::assertStringContainsString('Too many failed', $this->typed('otter', self::GOOD)->text());
        $this->typed('heron', self::GOOD);
        self::assertTrue($this->isIn(), 'somebody else of the same office');
        self::assertContains('too many tries', $this->noted('otter'));
    }

    public function testTheSecondFactor(): void
    {
        $this->added('otter');
        $this->typed('otter', self::GOOD);
        $this->post('/TEST/own', '/TEST/own/second-factor', []);
        $page = $this->page('/TEST/own');
        self::assertGreaterThan(500, \strlen((string) $page->filter('svg.qr path')->attr('d')));
        $secret = self::bytes($page->filter('.key')->text());
        self::assertStringContainsString(
            'not the code that shows',
            $this->post('/TEST/own', '/TEST/own/second-factor/begin', ['code' => '000000'])->text(),
        );
        $code = static fn (int $off): string => OneTimeCode::at($secret, OneTimeCode::step(time()) + $off);
        $page = $this->post('/TEST/own', '/TEST/own/second-factor/begin', ['code' => $code(-1)]);
        $codes = $page->filter('.codes li')->each(static fn (Crawler $c): string => $c->text());
        self::assertCount(10, array_unique($codes));
        self::assertStringNotContainsString($codes[0], $this->page('/TEST/own')->html(), 'shown once');

        $this->typed('otter', self::GOOD);
        self::assertFalse($this->isIn(), 'the password alone opens nothing');
        self::assertTrue($this->browser->getResponse()->isRedirect('/second-factor'));
        $answer = function (string $typed): bool {
            $page = $this->browser->request('GET', '/second-factor');
            $this->browser->submit($page->selectButton('Go on')->form(['code' => $typed]));

            return $this->isIn();
        };
        self::assertFalse($answer($code(-1)), 'a code that was taken before');
        self::assertFalse($answer('123'));
        self::assertTrue($answer($code(0)));
        $this->typed('otter', self::GOOD);
        self::assertFalse($answer($code(0)), 'the same code again');
        self::assertTrue($answer(strtoupper(' '.$codes[3])), 'a recovery code');
        $this->typed('otter', self::GOOD);
        self::assertFalse($answer($codes[3]), 'once');
    }

    public function testASecondFactorIsNotTriedForever(): void
    {
        $otter = $this->added('otter');
        $factor = self::get(SecondFactor::class);
        $sealed = $factor->offer();
        $code = OneTimeCode::at($factor->reveal($sealed), OneTimeCode::step(time()));
        $codes = $factor->begin($otter, $sealed, $code, null);
        self::assertStringNotContainsString($factor->reveal($sealed), (string) $otter->secondFactor, 'sealed');
        $presence = self::get(Presences::class)->begin($otter->id(), null, false);
        for ($n = 0; $n < 6; ++$n) {
            self::assertSame(['code'], self::refusedFields(fn () => $factor->pass($otter, $presence, 'no', null)));
        }
        self::assertSame(
            ['code'],
            self::refusedFields(fn () => $factor->pass($otter, $presence, $codes[0], null)),
            'even the right one',
        );
        self::assertNotNull($this->db()->fetchOne('SELECT ended_at FROM presence WHERE id = ?', [$presence]));
        self::assertSame(['password'], self::refusedFields(fn () => $factor->end($otter, 'no', null)));
        $lose = self::get(LoseSecondFactor::class);
        self::assertSame(['why'], self::refusedFields(fn () => $lose->take($this->clerk, $otter->id(), ' ')));
        $lose->take($this->clerk, $otter->id(), 'the telephone fell into the slip');
        self::assertNull($this->user('otter')->secondFactor);
    }

    /** Whoever sits down at somebody's screen replaces neither factor: the second asks for the password, and guesses of that are few. */
    public function testASecondFactorIsReplacedOnlyWithThePasswordAndThatIsNotGuessed(): void
    {
        $otter = $this->added('otter');
        $factor = self::get(SecondFactor::class);
        $begin = function () use ($factor, $otter): void {
            $sealed = $factor->offer();
            $code = OneTimeCode::at($factor->reveal($sealed), OneTimeCode::step(time()));
            $factor->begin($otter, $sealed, $code, null);
        };
        $begin();
        $before = $this->user('otter')->secondFactor;
        self::assertStringContainsString('end it with your password first', self::said($begin));
        self::assertSame($before, $this->user('otter')->secondFactor);
        $set = self::get(SetPassword::class);
        $guess = fn (string $typed): string => self::said(
            fn () => $set->byPerson($otter, $typed, 'nine herons on a pier', 'nine herons on a pier', 0, null),
        );
        for ($n = 0; $n < 4; ++$n) {
            self::assertStringContainsString('not your present password', $guess('guess '.$n));
        }
        // the guesses are counted together, whatever they are for
        self::assertStringContainsString(
            'This is not your password',
            self::said(fn () => $factor->end($otter, 'guess 5', null)),
        );
        self::assertStringContainsString('Too many tries', $guess(self::GOOD), 'even the right one');
        self::assertStringContainsString('Too many tries', self::said(fn () => $factor->end($otter, self::GOOD, null)));
        $this->db()->executeStatement('UPDATE attempt SET until_at = UNIX_TIMESTAMP()');
        self::assertSame('done', self::said(fn () => $factor->end($otter, self::GOOD, null)), 'after a while');
        self::assertSame('done', self::said($begin));
    }

    /** Each try is counted before it is judged, and one that was right begins anew. */
    public function testTriesAreCountedBeforeTheyAreJudged(): void
    {
        $attempts = self::get(Attempts::class);
        self::assertSame(
            [1, 2, 3],
            array_column(array_map(static fn (): array => $attempts->count('x', 60), [1, 2, 3]), 'n'),
        );
        self::assertSame(1, $attempts->count('y', 60)['n']);
        self::assertFalse($attempts->allows('x', 3, 60));
        $attempts->giveBack('x');
        self::assertTrue($attempts->allows('x', 4, 60));
        $attempts->forget('x');
        self::assertTrue($attempts->allows('x', 1, 60));
        $this->db()->executeStatement('UPDATE attempt SET until_at = UNIX_TIMESTAMP()');
        self::assertTrue($attempts->allows('x', 1, 60), 'the span is over');
        self::assertFalse($attempts->allows('x', 1, 60));
    }

    public function testASubstituteHasTheRolesForTheSpanAndTheLowerLimit(): void
    {
        $absent = $this->user('approver');
        $deputy = $this->user('payables');
        $begin = fn (string $first, string $last, string $reason = 'holiday'): string => self::get(
            StandIn::class,
        )->begin($this->clerk, $absent->id(), [
            'deputy' => (string) $deputy->id(),
            'first' => $first,
            'last' => $last,
            'reason' => $reason,
        ]);
        self::assertSame(['last'], self::refusedFields(fn () => $begin('2026-06-15', '2026-06-14')));
        self::assertSame(
            ['reason'],
            self::refusedFields(fn () => $begin('2026-06-15', '2026-06-15', '')),
            'duties kept apart',
        );
        $roles = fn (): array => array_map(
            static fn (Role $r): string => $r->value,
            self::get(Substitutes::class)->rolesOf($deputy->id())[$this->clerk->companyId] ?? [],
        );
        $begin('2026-06-16', '2026-06-20');
        self::assertSame([], $roles(), 'tomorrow');
        $begin('2026-06-10', '2026-06-14');
        self::assertSame([], $roles(), 'until yesterday');
        $begin('2026-06-15', '2026-06-15');
        self::assertSame(['approver'], $roles());
        $this->db()->executeStatement('UPDATE membership SET approval_limit = 5000 WHERE user_id = ?', [$absent->id()]);
        $actor = new Actor($this->clerk->companyId, 'USD', $deputy->id());
        self::get(SomebodyElse::class)->within($actor, 5000, 'It');
        self::assertSame([''], self::refusedFields(fn () => self::get(SomebodyElse::class)->within($actor, 5001, 'It')));
        $this->as('payables');
        self::assertStringContainsString('approver', $this->page('/TEST')->filter('header')->text());
        $this->as('controller');
        $id = (int) $this->db()->fetchOne("SELECT id FROM substitute WHERE first_day = '2026-06-15'");
        $this->post('/TEST/people', "/TEST/people/substitute/$id/end", []);
        self::assertSame([], $roles());
        self::assertSame([''], self::refusedFields(fn () => self::get(StandIn::class)->end($this->clerk, $id)));
    }

    private static function bytes(string $base32): string
    {
        $bits = '';
        foreach (str_split($base32) as $letter) {
            $bits .= str_pad(decbin((int) strpos('ABCDEFGHIJKLMNOPQRSTUVWXYZ234567', $letter)), 5, '0', \STR_PAD_LEFT);
        }

        return implode(
            '',
            array_map(static fn (string $b): string => \chr((int) bindec($b)), str_split(substr($bits, 0, 160), 8)),
        );
    }

    /** What a page asks for by itself is answered so that the page stays, and its forms get the new session's token. */
    public function testAPageIsToldThatItsSessionEnded(): void
    {
        $presence = SignedIn::as($this->browser, 'payables');
        $this->browser->request('GET', '/still-here');
        $there = json_decode((string) $this->browser->getResponse()->getContent(), true);
        self::assertSame('payables', $there['name'] ?? null);
        self::get(Presences::class)->end($presence);
        foreach (
            [
                '/still-here' => [],
                '/TEST/payables/items' => ['HTTP_HX_REQUEST' => 'true'],
                '/TEST/payables/pick/party?q=x' => ['HTTP_SEC_FETCH_MODE' => 'cors'],
            ] as $path => $server
        ) {
            SignedIn::as($this->browser, 'payables');
            self::get(Presences::class)->endAll($this->user('payables')->id());
            $this->browser->request('GET', $path, [], [], $server);
            self::assertSame(401, $this->browser->getResponse()->getStatusCode(), $path);
            $this->browser->getCookieJar()->clear();
            $this->browser->request('GET', $path, [], [], $server);
            self::assertSame(401, $this->browser->getResponse()->getStatusCode(), $path.' without a session');
        }
        $this->browser->request('GET', '/TEST/payables/items');
        self::assertSame(302, $this->browser->getResponse()->getStatusCode(), 'a page itself leads to the sign-in');
    }
}
