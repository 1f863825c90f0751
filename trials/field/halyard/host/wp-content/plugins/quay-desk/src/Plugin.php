<?php
namespace BrindleQuay\QuayDesk;

final class Plugin {
	public const TYPE = 'desk_request';

	public function __construct( private string $file ) {}

	public function run(): void {
		$loader = new Loader();
		$loader->add_action( 'init', [ $this, 'types' ] );
		$loader->add_action( 'admin_post_quay_desk_close', [ $this, 'close' ] );
		$loader->add_action( 'admin_post_nopriv_quay_desk_ask', [ $this, 'ask' ] );
		$loader->add_action( 'wp_enqueue_scripts', [ $this, 'assets' ] );
		$loader->add_action( 'widgets_init', static fn() => register_widget( Widget::class ) );
		$loader->add_action( 'save_post_product', [ $this, 'product' ] );
		$loader->add_action( 'wp_dashboard_setup', [ $this, 'dashboard' ] );
		foreach ( [ 'open', 'later' ] as $name ) {
			$loader->add_action( "wp_ajax_quay_desk_$name", [ $this, $name ] );
		}
		if ( is_admin() ) {
			( new Admin\Screens() )->hook( $loader );
		}
		$loader->run();
		add_shortcode( 'desk_requests', [ $this, 'shortcode' ] );
	}

	public function types(): void {
		register_post_type( self::TYPE, [ 'label' => __( 'Requests', 'quay-desk' ), 'public' => true, 'has_archive' => true ] );
		register_taxonomy( 'desk_topic', self::TYPE, [ 'label' => __( 'Topics', 'quay-desk' ) ] );
	}

	public function assets(): void {
		wp_register_script( 'quay-desk', plugins_url( 'build/desk.min.js', $this->file ), [], '0.9.0', true );
		wp_localize_script( 'quay-desk', 'quayDeskData', [ 'root' => rest_url() ] );
	}

	public function product( int $id ): void {
		update_post_meta( $id, 'desk_seen', time() );
	}

	public function close(): void {
		$id = absint( $_GET['id'] ?? 0 );
		check_admin_referer( 'quay_desk_close_' . $id );
		wp_safe_redirect( admin_url( 'edit.php?post_type=desk_request' ) );
		exit;
	}

	public function ask(): void {
		check_admin_referer( 'quay_desk_ask' );
		wp_safe_redirect( home_url() );
		exit;
	}

	public function open(): void {
		check_ajax_referer( 'quay_desk', 'nonce' );
		wp_send_json_success( $this->numbers( [ 1, 2 ] ) );
	}

	public function later(): void {
		check_ajax_referer( 'quay_desk', 'nonce' );
		wp_send_json_success();
	}

	public function numbers( array $ids ): array {
		global $wpdb;
		$marks = implode( ', ', array_fill( 0, count( $ids ), '%d' ) );
		$one   = $wpdb->get_var( $wpdb->prepare( "SELECT COUNT(*) FROM {$wpdb->posts} WHERE ID IN ( $marks )", $ids ) );
		$two   = $wpdb->get_var( $wpdb->prepare( "SELECT COUNT(*) FROM {$wpdb->posts} WHERE ID IN ( $marks ) AND post_type = %s", ...[ ...$ids, self::TYPE ] ) );
		$three = $wpdb->get_var( $wpdb->prepare( "SELECT DATE_FORMAT( MAX(post_date), '%%Y-%%m' ) FROM {$wpdb->posts} WHERE post_type = %s AND post_title LIKE %s", self::TYPE, '%' . $wpdb->esc_like( 'a' ) . '%' ) );
		return [ (int) $one, (int) $two, (string) $three ];
	}

	public function dashboard(): void {
		wp_add_dashboard_widget( 'quay_desk', __( 'Desk', 'quay-desk' ), function (): void {
			$count = (int) ( wp_count_posts( self::TYPE )->publish ?? 0 );
			/* translators: %s: how many */
			printf( esc_html( _n( '%s request', '%s requests', $count, 'quay-desk' ) ), esc_html( number_format_i18n( $count ) ) );
			printf( '<p>%1$s (%2$d%%), %1$s</p>', esc_html__( 'open', 'quay-desk' ), 50 );
			vprintf( '<p>%s %s</p>', [ 'a', 'b' ] );
			printf( '<p>%s-%s</p>', ...[ 'a', 'b' ] );
		} );
	}

	public function shortcode( $given ): string {
		$given = shortcode_atts( [ 'topic' => '' ], $given );
		$query = new \WP_Query( [ 'post_type' => [ self::TYPE, 'page' ], 'posts_per_page' => 3 ] );
		$other = get_posts( [ 'post_type' => 'product', 'numberposts' => 1 ] );
		ob_start();
		require __DIR__ . '/../views/requests.php';
		wp_reset_postdata();
		return (string) ob_get_clean();
	}
}
