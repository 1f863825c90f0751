<?php
/** The host's administration, loaded for somebody who may do all: its menu, its screens and what they send. */

namespace SwiftSprout;

/** What is asked of the loaded administration, step by step. */
final class Administration {
	private static array $menu = array();

	/** Keep the menu as modules made it, before the host takes out what the person may not see. */
	public static function begin(): void {
		Guard::hook( 'admin_menu', array( self::class, 'keep' ), 0, PHP_INT_MAX );
	}

	/** From now on, whoever leads elsewhere is told instead: it would end the run. */
	public static function stay(): void {
		add_filter( 'wp_redirect', static fn( $to ) => throw new Died( "it leads to $to", 302 ), PHP_INT_MAX );
	}

	/** The menu is made. */
	public static function keep(): void {
		foreach ( $GLOBALS['menu'] ?? array() as $entry ) {
			self::$menu[] = self::entry( '', $entry );
		}
		foreach ( $GLOBALS['submenu'] ?? array() as $parent => $entries ) {
			foreach ( $entries as $entry ) {
				self::$menu[] = self::entry( (string) $parent, $entry );
			}
		}
	}

	/** The administration's menu. */
	public static function menu(): array {
		return self::$menu;
	}

	/** What the start of a screen did: hooks that end the request or break there. */
	public static function started(): array {
		return Facts::tried(
			static function (): array {
				do_action( 'admin_init' );
				return array( 'status' => 200 );
			}
		);
	}

	/** Groups of settings, and the pages that have sections. */
	public static function settings(): array {
		return array(
			'groups' => array_values( array_unique( array_merge( array_column( get_registered_settings(), 'group' ), array_keys( apply_filters( 'allowed_options', array() ) ) ) ) ),
			'pages'  => array_keys( $GLOBALS['wp_settings_sections'] ?? array() ),
			'sections' => array_map( 'array_keys', $GLOBALS['wp_settings_sections'] ?? array() ),
			'fields' => array_map( 'array_keys', $GLOBALS['wp_settings_fields'] ?? array() ),
		);
	}

	/** What modules' screens draw; each is told at once, for one may end the run. */
	public static function screens( array $places ): array {
		$done = array();
		foreach ( self::$menu as $entry ) {
			$hook = get_plugin_page_hook( $entry['slug'], $entry['parent'] );
			if ( ! $hook || isset( $done[ $hook ] ) || ! Facts::within( $entry['file'], $places ) ) {
				continue;
			}
			$done[ $hook ]          = true;
			$_GET['page']           = $entry['slug'];
			$_REQUEST['page']       = $entry['slug'];
			$GLOBALS['plugin_page'] = $entry['slug'];
			$named                  = array( 'slug' => $entry['slug'], 'parent' => $entry['parent'], 'file' => $entry['file'] );
			answer( array( 'screen' => array( $entry['slug'] => $named + array( 'ended' => true ) ) ) );
			$told = Facts::tried( static fn(): array => self::drawn( $hook ) );
			answer( array( 'screen' => array( $entry['slug'] => $named + $told ) ) );
		}
		return array_keys( $done );
	}

	/** What modules' boxes draw beside the text of a post of each type. */
	public static function boxes( array $places ): void {
		global $wp_meta_boxes;
		foreach ( array_unique( array( 'post', 'page', ...array_column( Watch::$made['registered_post_type'] ?? array(), 'name' ) ) ) as $type ) {
			$post = get_posts( array( 'post_type' => $type, 'numberposts' => 1, 'post_status' => 'any' ) )[0] ?? null;
			if ( ! $post ) {
				continue;
			}
			set_current_screen( $type );
			$added = Facts::tried(
				static function () use ( $type, $post ): array {
					do_action( 'add_meta_boxes', $type, $post );
					do_action( "add_meta_boxes_$type", $post );
					return array( 'status' => 200 );
				}
			);
			answer( array( 'box' => array( $type => array( 'file' => '' ) + $added ) ) );
			foreach ( array_merge( ...array_values( array_map( static fn( $side ) => array_merge( ...array_values( $side ) ), $wp_meta_boxes[ $type ] ?? array() ) ) ) as $box ) {
				$told = is_array( $box ) ? Facts::callable_told( $box['callback'] ) : array( 'file' => '' );
				if ( ! Facts::within( $told['file'], $places ) ) {
					continue;
				}
				answer( array( 'box' => array( "$type: {$box['id']}" => $told + array( 'ended' => true ) ) ) );
				$drawn = Facts::tried(
					static function () use ( $box, $post ): array {
						ob_start();
						call_user_func( $box['callback'], $post, $box );
						ob_end_clean();
						return array( 'status' => 200 );
					}
				);
				answer( array( 'box' => array( "$type: {$box['id']}" => $told + $drawn ) ) );
			}
		}
	}

	private static function drawn( string $hook ): array {
		set_current_screen( $hook );
		do_action( "load-$hook" );
		do_action( 'admin_enqueue_scripts', $hook );
		ob_start();
		do_action( 'admin_notices' );
		do_action( $hook );
		$page = (string) ob_get_clean();
		return array( 'status' => 200, 'length' => strlen( $page ), 'forms' => self::forms( $page ) );
	}

	/** The forms of a page that the host itself takes in: where each goes, and what nobody answers there. */
	private static function forms( string $page ): array {
		$found = array();
		preg_match_all( '#<form\b([^>]*)>(.*?)</form>#is', $page, $forms, PREG_SET_ORDER );
		foreach ( $forms as list( , $head, $inside ) ) {
			$to     = preg_match( '#\baction\s*=\s*["\']([^"\']*)#i', $head, $said ) ? html_entity_decode( $said[1] ) : '';
			$goes   = basename( (string) parse_url( $to, PHP_URL_PATH ) );
			$action = self::hidden( 'action', $inside ) ?: ( preg_match( '/[?&]action=([^&]+)/', $to, $said ) ? rawurldecode( $said[1] ) : '' );
			$starts = array( 'admin-post.php' => 'admin_post_', 'admin-ajax.php' => 'wp_ajax_' );
			if ( isset( $starts[ $goes ] ) ) {
				$found[] = array( 'to' => $goes, 'says' => $action, 'answered' => has_action( $starts[ $goes ] . $action ) || has_action( "{$starts[ $goes ]}nopriv_$action" ) );
			} elseif ( 'options.php' === $goes ) {
				$group   = self::hidden( 'option_page', $inside );
				$found[] = array( 'to' => $goes, 'says' => $group, 'answered' => in_array( $group, self::settings()['groups'], true ) );
			}
		}
		return $found;
	}

	private static function hidden( string $name, string $inside ): string {
		preg_match_all( '#<input\b[^>]*>#i', $inside, $inputs );
		foreach ( $inputs[0] as $input ) {
			if ( preg_match( "#\\bname\\s*=\\s*[\"']{$name}[\"']#i", $input ) && preg_match( '#\bvalue\s*=\s*["\']([^"\']*)#i', $input, $said ) ) {
				return html_entity_decode( $said[1] );
			}
		}
		return '';
	}

	private static function entry( string $parent, array $entry ): array {
		$hook = get_plugin_page_hook( $entry[2], $parent );
		$file = '';
		$told = array( 'file' => '', 'name' => '', 'callable' => true );
		foreach ( $hook ? $GLOBALS['wp_filter'][ $hook ]->callbacks ?? array() : array() as $callbacks ) {
			foreach ( $callbacks as $callback ) {
				$told = Facts::callable_told( $callback['function'] );
				$file = $told['file'] ?: $file;
			}
		}
		return array(
			'file'     => $file,
			'parent'   => $parent,
			'title'    => wp_strip_all_tags( (string) $entry[0] ),
			'needs'    => $entry[1],
			'slug'     => $entry[2],
			'opens'    => (bool) $hook || str_contains( (string) $entry[2], '/' ) || str_contains( (string) $entry[2], '.php' ),
			'callable' => $told['callable'],
			'hook'     => (string) $hook,
			'line'     => $told['line'] ?? 0,
			'draws'    => $told['name'],
		);
	}
}
