"""Ways to write a healthy module that look unusual: none of them may bring a finding. Each was once, or might be, a false alarm."""

from ... import healthy


def _on(key: str) -> str:
    """Return the statement that switches one more module on, as the host would have it."""
    return (
        "update bq_options set option_value = insert(replace(option_value, 'a:4:{', 'a:5:{'), "
        f"length(option_value), 1, 'i:4;s:{len(key)}:\"{key}\";}}') where option_name = 'active_plugins'"
    )


_PILOTAGE = "wp-content/plugins/pilotage"


VARIANTS: healthy.Variants = {
    "a function without a name on a hook": (
        [
            {
                "file": f"{_PILOTAGE}/includes/pages.php",
                "old": "add_action( 'init', 'pilotage_add_rules' );",
                "new": "add_action( 'init', static function () {\n\tpilotage_add_rules();\n} );",
            }
        ],
        True,
    ),
    "callables of the newer spelling": (
        [
            {
                "file": f"{_PILOTAGE}/pilotage.php",
                "old": "add_action( 'init', 'pilotage_load_texts' );",
                "new": "add_action( 'init', pilotage_load_texts( ... ) );",
            },
            {
                "file": f"{_PILOTAGE}/includes/endpoints.php",
                "old": "'callback'            => 'pilotage_pilots'",
                "new": "'callback'            => pilotage_pilots( ... )",
            },
        ],
        True,
    ),
    "methods named by one text, and functions of the host": (
        [
            {
                "file": f"{_PILOTAGE}/pilotage.php",
                "old": "add_shortcode( 'pilots_on_duty', array( 'Pilotage_Roster', 'draw' ) );",
                "new": "add_shortcode( 'pilots_on_duty', 'Pilotage_Roster::draw' );\n"
                "\tadd_filter( 'show_admin_bar', '__return_false' );\n\tadd_filter( 'the_title', 'trim' );",
            }
        ],
        True,
    ),
    "a method from a class of the host, and from a trait": (
        [
            {
                "file": f"{_PILOTAGE}/includes/class-pilotage-widget.php",
                "text": "<?php\n\ndefined( 'ABSPATH' ) || exit;\n\ntrait Pilotage_Quiet {\n"
                "\tpublic function hush( $text ) {\n\t\treturn $text;\n\t}\n}\n\n"
                "class Pilotage_Widget extends WP_Widget {\n\tuse Pilotage_Quiet;\n\n"
                "\tpublic function __construct() {\n"
                "\t\tparent::__construct( 'pilotage_duty', __( 'Pilots on duty', 'pilotage' ) );\n"
                "\t\tadd_filter( 'the_excerpt', array( $this, 'hush' ) );\n"
                "\t\tadd_action( 'pilotage_reload', array( $this, 'get_settings' ) );\n\t}\n\n"
                "\tpublic function widget( $args, $instance ) {\n\t\techo Pilotage_Roster::draw();\n\t}\n}\n",
            }
        ],
        True,
    ),
    "paths made with the host's own function": (
        [
            {
                "file": f"{_PILOTAGE}/pilotage.php",
                "old": "require_once __DIR__ . '/includes/pages.php';",
                "new": "require_once plugin_dir_path( __FILE__ ) . 'includes/pages.php';",
            },
            {
                "file": f"{_PILOTAGE}/pilotage.php",
                "old": "'pilotage/languages'",
                "new": "dirname( plugin_basename( __FILE__ ) ) . '/languages'",
            },
        ],
        True,
    ),
    "a loader with a list of its own": (
        [
            {
                "file": f"{_PILOTAGE}/pilotage.php",
                "old": "require_once __DIR__ . '/includes/class-pilotage-roster.php';\n",
                "new": "spl_autoload_register(\n\tstatic function ( $name ) {\n"
                "\t\t$known = array( 'Pilotage_Roster' => 'class-pilotage-roster.php' );\n"
                "\t\tif ( isset( $known[ $name ] ) ) {\n"
                "\t\t\trequire_once __DIR__ . '/includes/' . $known[ $name ];\n\t\t}\n\t}\n);\n",
            }
        ],
        True,
    ),
    "functions that stand aside for another's": (
        [
            {
                "file": "wp-content/plugins/foghorn/foghorn.php",
                "text": "<?php\n/**\n * Plugin Name: Foghorn\n * Version: 1.0\n */\n\n"
                "if ( ! function_exists( 'pilotage_pilots' ) ) {\n\tfunction pilotage_pilots() {\n\t}\n}\n",
            },
            {"sql": _on("foghorn/foghorn.php")},
        ],
        True,
    ),
    "one file alone": (
        [
            {
                "file": "wp-content/plugins/bell.php",
                "text": "<?php\n/*\nPlugin Name: Bell\nVersion: 2.0-beta1\nDescription: Rings.\n*/\n"
                "add_filter( 'the_content', function ( $text ) {\n\treturn $text;\n} );\n?>\n",
            },
            {"sql": _on("bell.php")},
        ],
        True,
    ),
    "lines that end as elsewhere": (
        [
            {
                "file": "wp-content/plugins/lantern/lantern.php",
                "text": "<?php\r\n/**\r\n * Plugin Name: Lantern\r\n * Version: 1.0\r\n * Text Domain: lantern\r\n */\r\n"
                "namespace Quay\\Lantern;\r\n\r\nfunction light() {\r\n}\r\n"
                "add_action( 'init', __NAMESPACE__ . '\\\\light' );\r\nadd_action( 'wp_head', 'Quay\\\\Lantern\\\\light' );\r\n",
            },
            {"sql": _on("lantern/lantern.php")},
        ],
        True,
    ),
    "words of the plugin's own on hooks, and hooks named by variables": (
        [
            {
                "file": f"{_PILOTAGE}/includes/endpoints.php",
                "old": "function pilotage_may_call() {",
                "new": "foreach ( array( 'save_post', 'delete_post' ) as $pilotage_hook ) {\n"
                "\tadd_action( $pilotage_hook, 'pilotage_note' );\n}\n\nfunction pilotage_note( $post ) {\n"
                "\tdo_action( 'pilotage_noted', $post );\n}\n\nfunction pilotage_may_call() {",
            }
        ],
        True,
    ),
    "many methods on one endpoint, each guarded": (
        [
            {
                "file": f"{_PILOTAGE}/includes/endpoints.php",
                "old": "		array(\n			'methods'             => 'GET',\n			'callback'            => 'pilotage_pilots',\n			'permission_callback' => '__return_true',\n		)",
                "new": "		array(\n			array(\n				'methods'             => WP_REST_Server::READABLE,\n				'callback'            => 'pilotage_pilots',\n				'permission_callback' => '__return_true',\n			),\n			array(\n				'methods'             => WP_REST_Server::CREATABLE,\n				'callback'            => 'pilotage_pilots',\n				'permission_callback' => 'pilotage_may_call',\n			),\n			'schema' => '__return_empty_array',\n		)",
            }
        ],
        True,
    ),
    "a block without a description file": (
        [
            {
                "file": f"{_PILOTAGE}/pilotage.php",
                "old": "register_block_type( __DIR__ . '/blocks/pilots-on-duty', ",
                "new": "register_block_type( 'pilotage/duty', array( 'render_callback' => '__return_empty_string' ) );\n"
                "\tregister_block_type( __DIR__ . '/blocks/pilots-on-duty/block.json', ",
            }
        ],
        True,
    ),
    "a page that the theme draws in its own way": (
        [
            {
                "file": "wp-content/themes/quayside/berth-register/berths_list.php",
                "text": "<?php\nget_header();\necho 'ours';\nget_footer();\n",
            },
        ],
        True,
    ),
    "a page that makes its whole document itself": (
        [
            {
                "file": f"{_PILOTAGE}/templates/calls.php",
                "text": "<?php defined( 'ABSPATH' ) || exit; ?>\n<!DOCTYPE html>\n<html><head><?php wp_head(); ?></head>\n"
                "<body><h1>Calls</h1><?php wp_footer(); ?></body></html>\n",
            }
        ],
        True,
    ),
    "rules with parts that change": (
        [
            {
                "file": f"{_PILOTAGE}/includes/pages.php",
                "old": "	add_rewrite_rule( '^pilots/calls/?$'",
                "new": "	add_rewrite_tag( '%pilot%', '([^&]+)' );\n"
                "	add_rewrite_rule( '^pilots/([0-9]{4})/([^/]+)/?$', 'index.php?pilotage_page=roster&year=$matches[1]&pilot=$matches[2]', 'top' );\n"
                "	add_rewrite_rule( '^pilots/calls/?$'",
            },
            {"sql": "update bq_options set option_value = '' where option_name = 'rewrite_rules'"},
        ],
        False,
    ),
}


class OnTheHost(healthy.Healthy):
    kit = "wordpress"
    variants = VARIANTS
