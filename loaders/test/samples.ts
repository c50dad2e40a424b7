/** A hand-written COLLADA: a strip of four triangles bound to two joints, in centimetres with Z up, one bending second joint. */
export const COLLADA = `<?xml version="1.0" encoding="utf-8"?>
<COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1">
 <asset><unit name="centimeter" meter="0.01"/><up_axis>Z_UP</up_axis></asset>
 <library_geometries><geometry id="strip" name="strip"><mesh>
  <source id="p"><float_array id="pa" count="18">-1 0 0 1 0 0 -1 0 10 1 0 10 -1 0 20 1 0 20</float_array>
   <technique_common><accessor source="#pa" count="6" stride="3"><param name="X" type="float"/><param name="Y" type="float"/><param name="Z" type="float"/></accessor></technique_common></source>
  <vertices id="v"><input semantic="POSITION" source="#p"/></vertices>
  <triangles count="4"><input semantic="VERTEX" source="#v" offset="0"/><p>0 1 2 1 3 2 2 3 4 3 5 4</p></triangles>
 </mesh></geometry></library_geometries>
 <library_controllers><controller id="ctl"><skin source="#strip">
  <bind_shape_matrix>1 0 0 0 0 1 0 0 0 0 1 0 0 0 0 1</bind_shape_matrix>
  <source id="jn"><Name_array id="jna" count="2">low high</Name_array><technique_common><accessor source="#jna" count="2" stride="1"><param name="JOINT" type="name"/></accessor></technique_common></source>
  <source id="jb"><float_array id="jba" count="32">1 0 0 0 0 1 0 0 0 0 1 0 0 0 0 1 1 0 0 0 0 1 0 0 0 0 1 -10 0 0 0 1</float_array><technique_common><accessor source="#jba" count="2" stride="16"><param name="TRANSFORM" type="float4x4"/></accessor></technique_common></source>
  <source id="jw"><float_array id="jwa" count="1">1</float_array><technique_common><accessor source="#jwa" count="1" stride="1"><param name="WEIGHT" type="float"/></accessor></technique_common></source>
  <joints><input semantic="JOINT" source="#jn"/><input semantic="INV_BIND_MATRIX" source="#jb"/></joints>
  <vertex_weights count="6"><input semantic="JOINT" source="#jn" offset="0"/><input semantic="WEIGHT" source="#jw" offset="1"/>
   <vcount>1 1 1 1 1 1</vcount><v>0 0 0 0 0 0 0 0 1 0 1 0</v></vertex_weights>
 </skin></controller></library_controllers>
 <library_animations><animation id="a"><source id="ai"><float_array id="aia" count="2">0 1</float_array><technique_common><accessor source="#aia" count="2" stride="1"><param name="TIME" type="float"/></accessor></technique_common></source>
  <source id="ao"><float_array id="aoa" count="32">1 0 0 0 0 1 0 0 0 0 1 10 0 0 0 1 1 0 0 0 0 0 -1 0 0 1 0 10 0 0 0 1</float_array><technique_common><accessor source="#aoa" count="2" stride="16"><param name="TRANSFORM" type="float4x4"/></accessor></technique_common></source>
  <source id="an"><Name_array id="ana" count="2">LINEAR LINEAR</Name_array><technique_common><accessor source="#ana" count="2" stride="1"><param name="INTERPOLATION" type="name"/></accessor></technique_common></source>
  <sampler id="as"><input semantic="INPUT" source="#ai"/><input semantic="OUTPUT" source="#ao"/><input semantic="INTERPOLATION" source="#an"/></sampler>
  <channel source="#as" target="high/matrix"/></animation></library_animations>
 <library_visual_scenes><visual_scene id="s">
  <node id="low" name="low" sid="low" type="JOINT"><matrix sid="matrix">1 0 0 0 0 1 0 0 0 0 1 0 0 0 0 1</matrix>
   <node id="high" name="high" sid="high" type="JOINT"><matrix sid="matrix">1 0 0 0 0 1 0 0 0 0 1 10 0 0 0 1</matrix></node></node>
  <node id="body" name="body"><instance_controller url="#ctl"><skeleton>#low</skeleton></instance_controller></node>
 </visual_scene></library_visual_scenes>
 <scene><instance_visual_scene url="#s"/></scene>
</COLLADA>`

/** A hand-written text FBX: one triangle and one quad in a single mesh, with texture coordinates and a material. */
export const FBX_TEXT = `; FBX 7.4.0 project file
FBXHeaderExtension:  {
	FBXHeaderVersion: 1003
	FBXVersion: 7400
}
GlobalSettings:  {
	Version: 1000
	Properties70:  {
		P: "UpAxis", "int", "Integer", "",1
		P: "UnitScaleFactor", "double", "Number", "",1
	}
}
Definitions:  {
	Version: 100
	Count: 3
}
Objects:  {
	Geometry: 1001, "Geometry::sheet", "Mesh" {
		Vertices: *15 {
			a: 0,0,0,10,0,0,10,10,0,0,10,0,5,20,0
		}
		PolygonVertexIndex: *7 {
			a: 0,1,2,-4,3,2,-5
		}
		GeometryVersion: 124
	}
	Model: 2001, "Model::sheet", "Mesh" {
		Version: 232
		Properties70:  {
			P: "Lcl Translation", "Lcl Translation", "", "A",0,5,0
		}
	}
	Material: 3001, "Material::cloth", "" {
		Version: 102
		ShadingModel: "lambert"
		Properties70:  {
			P: "DiffuseColor", "Color", "", "A",0.5,0.25,0.125
		}
	}
}
Connections:  {
	C: "OO",2001,0
	C: "OO",1001,2001
	C: "OO",3001,2001
}
`
