<?php

declare(strict_types=1);

$folders = ['core', 'src', 'demo', 'tests', 'migrations', 'config', 'public', 'bench'];
$finder = (new PhpCsFixer\Finder())->in(array_map(static fn (string $f): string => __DIR__.'/'.$f, $folders));

return (new PhpCsFixer\Config())
    ->setRiskyAllowed(true)
    ->setRules([
        '@Symfony' => true,
        'declare_strict_types' => true,
        'yoda_style' => true,
        'phpdoc_to_comment' => false,
        'phpdoc_align' => ['align' => 'left'],
        'concat_space' => ['spacing' => 'none'],
        'single_line_throw' => false,
        'native_function_invocation' => [
            'include' => ['@compiler_optimized'],
            'scope' => 'namespaced',
            'strict' => false,
        ],
        'method_argument_space' => ['on_multiline' => 'ignore'],
        'no_superfluous_phpdoc_tags' => ['allow_mixed' => true],
    ])
    ->setCacheFile(__DIR__.'/var/.php-cs-fixer.cache')
    ->setFinder($finder);
