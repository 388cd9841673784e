<?php

declare(strict_types=1);

namespace Nelbix\App\Setup\NewCompany;

use Nelbix\App\People\FirstPerson;
use Nelbix\App\People\User;
use Nelbix\App\Platform\CompanySettings;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\IpUtils;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** An empty Nelbix: its first person, from the machine itself only; then companies. */
#[Route('/begin')]
final class BeginController extends Screen
{
    private const TOO_OLD = 'The page was too old to be sent; send it once more.';

    #[Route('', name: 'begin', methods: ['GET'])]
    public function begin(Request $request, FirstPerson $first): Response
    {
        return $first->isAwaited() ? $this->firstPage($request) : $this->redirectToRoute('home');
    }

    #[Route('', name: 'begin_person', methods: ['POST'])]
    public function person(Request $request, FirstPerson $first): Response
    {
        $raw = $request->request->all();
        if (!$first->isAwaited() || !self::isHere($request)) {
            return $this->begin($request, $first);
        }
        if (!$this->isCsrfTokenValid('begin', (string) $request->request->get('_token', ''))) {
            return $this->firstPage($request, $raw, ['' => self::TOO_OLD]);
        }
        try {
            $user = $first->withPassword($raw);
        } catch (Refused $e) {
            return $this->firstPage($request, $raw, self::byField($e->problems));
        }
        $this->say(
            \sprintf('Welcome, %s. Sign in as %s; then your first company is made.', $user->name, $user->username),
        );

        return $this->redirectToRoute('sign_in', [], 303);
    }

    #[Route('/company', name: 'begin_company', methods: ['GET'])]
    public function company(Request $request, FoundCompany $found): Response
    {
        $founder = $this->founder();
        if (!$found->may($founder)) {
            return $this->render('platform/message.html.twig', [
                'title' => $founder->memberships->isEmpty() ? 'No company' : 'Not for you',
                'text' => $founder->memberships->isEmpty()
                    ? 'You do not work in any company yet. Ask a controller to give you a role.'
                    : 'A controller makes further companies; ask one.',
            ]);
        }
        $country = (string) $request->query->get('country', '');
        $country = isset(Countries::names()[$country]) ? $country : 'US';
        $typed = array_filter($request->query->all(), \is_string(...));

        return $this->companyPage([...$typed, ...self::usual($country)], $country);
    }

    #[Route('/company', name: 'begin_company_make', methods: ['POST'])]
    public function make(Request $request, FoundCompany $found): Response
    {
        $raw = array_filter($request->request->all(), \is_string(...));
        $country = isset(Countries::names()[$raw['country'] ?? '']) ? $raw['country'] : 'US';
        if (!$this->isCsrfTokenValid('begin', $raw['_token'] ?? '')) {
            return $this->companyPage($raw, $country, ['' => self::TOO_OLD]);
        }
        try {
            $company = $found->found($this->founder(), $raw);
        } catch (Refused $e) {
            return $this->companyPage($raw, $country, self::byField($e->problems));
        }
        $this->say(\sprintf('%s is there, and you are its controller.', $company->name));

        return $this->redirectToRoute('today', ['company' => $company->code], 303);
    }

    /** @return array<string, string> what is usual in a country */
    private static function usual(string $country): array
    {
        return [
            'country' => $country,
            'currency' => Countries::currency($country),
            'time_zone' => Countries::zones($country)[0],
            'date_order' => CompanyTemplate::ofCountry($country)->dateOrder,
            'first_month' => '1',
        ];
    }

    /** From the machine itself, and not handed on by a server that stands before it. */
    private static function isHere(Request $request): bool
    {
        $handedOn = array_filter(
            ['X-Forwarded-For', 'X-Forwarded-Host', 'X-Real-IP', 'Forwarded', 'Via'],
            $request->headers->has(...),
        );

        return [] === $handedOn
            && IpUtils::checkIp((string) $request->server->get('REMOTE_ADDR'), ['127.0.0.0/8', '::1'])
            && \in_array($request->getHost(), ['127.0.0.1', 'localhost', '[::1]'], true);
    }

    private function founder(): User
    {
        $user = $this->getUser();

        return $user instanceof User ? $user : throw $this->createAccessDeniedException();
    }

    /**
     * @param array<mixed> $form
     * @param array<string, string> $errors
     */
    private function firstPage(Request $request, array $form = [], array $errors = []): Response
    {
        $here = self::isHere($request);

        return $this->render(
            'setup/begin.html.twig',
            ['here' => $here, 'form' => array_filter($form, \is_string(...)), 'errors' => $errors],
            new Response(null, $here ? ([] === $errors ? 200 : 422) : 403),
        );
    }

    /**
     * @param array<string, string> $form
     * @param array<string, string> $errors
     */
    private function companyPage(array $form, string $country, array $errors = []): Response
    {
        return $this->render(
            'setup/begin_company.html.twig',
            [
                'form' => $form,
                'errors' => $errors,
                'countries' => Countries::names(),
                'zones' => array_unique([...Countries::zones($country), ...\DateTimeZone::listIdentifiers()]),
                'orders' => CompanySettings::CHOICES['date_order'],
                'template' => CompanyTemplate::ofCountry($country),
                'sales_tax' => CompanyTemplate::hasSalesTax($country),
            ],
            new Response(null, [] === $errors ? 200 : 422),
        );
    }
}
