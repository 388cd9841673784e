<?php

declare(strict_types=1);

namespace Nelbix\App\Setup;

use Nelbix\App\Platform\CompanySettings;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Setup: settings, and what the company's documents draw on. */
#[Route('/{company}/setup', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class SetupController extends Screen
{
    #[Route('', name: 'setup', methods: ['GET'])]
    #[Needs(Permission::SeeSetup)]
    public function settings(Desk $desk, Settings $settings): Response
    {
        return $this->settingsPage($desk, $settings->of($desk->id())->values);
    }

    #[Route('', name: 'setup_save', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function save(Desk $desk, Request $request, KeepSettings $keep): Response
    {
        try {
            $keep->keep(
                $desk->actor,
                CompanySettings::read($request->request->all(), Currency::of($desk->company->baseCurrency)),
            );
        } catch (Refused $e) {
            return $this->settingsPage(
                $desk,
                [
                    ...CompanySettings::DEFAULTS,
                    ...array_map(static fn (mixed $v): string => \is_string($v) ? $v : '', $request->request->all()),
                ],
                self::byField($e->problems),
            );
        }
        $this->say('The settings are kept. They hold for what is entered from now on.');

        return $this->redirectToRoute('setup', ['company' => $desk->company->code], 303);
    }

    #[Route('/company', name: 'company_save', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function company(Desk $desk, Request $request, KeepCompany $keepCompany): Response
    {
        return $this->act(
            static function () use ($desk, $request, $keepCompany): string {
                $keepCompany->keep($desk->actor, $request->request->all());

                return 'What stands on the company’s paper is kept.';
            },
            'setup',
            ['company' => $desk->company->code],
        );
    }

    /**
     * @param array<string, string> $values
     * @param array<string, string> $errors
     */
    private function settingsPage(Desk $desk, array $values, array $errors = []): Response
    {
        return $this->render(
            'setup/settings.html.twig',
            [
                'values' => $values,
                'errors' => $errors,
                'choices' => CompanySettings::CHOICES,
                'zones' => \DateTimeZone::listIdentifiers(),
            ],
            new Response(null, [] === $errors ? 200 : 422),
        );
    }
}
