;; Linear blend skinning of a row of vertices, four numbers at a time.
;; `npm run kernels` turns this into blend-kernel.ts; a test tells when they are not the same.
(module
  (memory (export "memory") 1)
  ;; Addresses in bytes: n vertices of 3 floats at $at, k joints (16 bit) and k weights (float) each, joints' columns of 16 floats,
  ;; and where to write: 3 floats a vertex, and 4 bytes more behind the last.
  (func (export "blend")
    (param $n i32) (param $k i32)
    (param $at i32) (param $joints i32) (param $weights i32) (param $columns i32) (param $out i32)
    (local $end i32) (local $i i32) (local $m i32) (local $weight f32) (local $w v128)
    (local $x v128) (local $y v128) (local $z v128) (local $t v128)
    (local.set $end (i32.add (local.get $out) (i32.mul (local.get $n) (i32.const 12))))
    (block $done
      (loop $vertex
        (br_if $done (i32.ge_u (local.get $out) (local.get $end)))
        (local.set $x (v128.const f32x4 0 0 0 0))
        (local.set $y (v128.const f32x4 0 0 0 0))
        (local.set $z (v128.const f32x4 0 0 0 0))
        (local.set $t (v128.const f32x4 0 0 0 0))
        (local.set $i (local.get $k))
        (loop $influence
          (local.set $weight (f32.load (local.get $weights)))
          ;; a place not used must not bring a joint in that is nowhere
          (if (f32.ne (local.get $weight) (f32.const 0))
            (then
              (local.set $w (f32x4.splat (local.get $weight)))
              (local.set $m (i32.add (local.get $columns) (i32.shl (i32.load16_u (local.get $joints)) (i32.const 6))))
              (local.set $x (f32x4.add (local.get $x) (f32x4.mul (local.get $w) (v128.load (local.get $m)))))
              (local.set $y (f32x4.add (local.get $y) (f32x4.mul (local.get $w) (v128.load offset=16 (local.get $m)))))
              (local.set $z (f32x4.add (local.get $z) (f32x4.mul (local.get $w) (v128.load offset=32 (local.get $m)))))
              (local.set $t (f32x4.add (local.get $t) (f32x4.mul (local.get $w) (v128.load offset=48 (local.get $m)))))))
          (local.set $weights (i32.add (local.get $weights) (i32.const 4)))
          (local.set $joints (i32.add (local.get $joints) (i32.const 2)))
          (br_if $influence (local.tee $i (i32.sub (local.get $i) (i32.const 1)))))
        (v128.store (local.get $out)
          (f32x4.add
            (f32x4.add
              (f32x4.mul (local.get $x) (v128.load32_splat (local.get $at)))
              (f32x4.mul (local.get $y) (v128.load32_splat offset=4 (local.get $at))))
            (f32x4.add
              (f32x4.mul (local.get $z) (v128.load32_splat offset=8 (local.get $at)))
              (local.get $t))))
        (local.set $at (i32.add (local.get $at) (i32.const 12)))
        (local.set $out (i32.add (local.get $out) (i32.const 12)))
        (br $vertex)))))
